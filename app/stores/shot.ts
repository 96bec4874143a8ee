// The open shot. Every change is kept in this browser (at once, or while something is dragged a few times a second and
// when the page goes) and saved to the server as a JSON Patch on the revision it was made from.
import jsonPatch, { type Operation } from 'fast-json-patch'
import { defineStore } from 'pinia'
import { toRaw } from 'vue'
import { DOCUMENT_VERSION, type ShotDocument } from '../../core/shot/document'
import { ofToday } from '../../core/shot/migrate'
import { changesBetween, forceChanges, layChanges, patchOf, type Change, type Refused } from '../../core/shot/patch'
import { sceneStamp } from '../../core/shot/stamp'
import { api, ServerSays } from '~/composables/api'

interface ServerShot {
  id: string
  name: string
  document: ShotDocument
  revision: number
  cursor: number
  changes: number
}
/** As it is, without what watches it: changes make a new document, so nobody alters this one. */
const plain = (document: ShotDocument | null): ShotDocument => toRaw(document)!
const copyOf = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T
const keepKey = (id: string): string => `northmist/unsaved/${id}`

/** What is kept in this browser until it is saved; before version 2 it was a patch that names things by their number. */
type Unsaved = { label: string } & ({ version: number; changes: Change[] } | { patch: Operation[] })

/** One that has no room for it must not stop the saving itself. */
function keepUnsaved(id: string, label: string, changes: Change[]): void {
  try {
    localStorage.setItem(keepKey(id), JSON.stringify({ version: DOCUMENT_VERSION, label, changes } satisfies Unsaved))
  } catch {
    localStorage.removeItem(keepKey(id))
  }
}
/** Milliseconds until a step of a drag is kept in this browser, unless the page goes before. */
const KEEP_WITHIN = 150
const was = (names: readonly string[]): string => (names.length > 1 ? 'were' : 'was')
const quoted = (names: readonly string[]): string => names.map(name => `“${name}”`).join(', ')

export const useShot = defineStore('shot', {
  state: () => ({
    id: '',
    name: '',
    document: null as ShotDocument | null,
    revision: 0,
    cursor: 0,
    changes: 0,
    frame: 1,
    state: 'saved' as 'saved' | 'saving' | 'waiting',
    message: '',
    /** Said when the shot that is opened next is there. */
    arriving: '',
    /** Changes of ours to things that another page has changed too meanwhile; what they are called. */
    conflict: null as null | { label: string; changes: Change[]; names: string[] },
  }),
  getters: {
    canUndo: state => state.cursor > 0,
    canRedo: state => state.cursor < state.changes,
    stalePasses: state =>
      !!state.document?.passes.file &&
      state.document.passes.file.of !== '' &&
      state.document.passes.file.of !== sceneStamp(state.document),
  },
  actions: {
    async open(id: string) {
      this.keepNow()
      saving = undefined
      clearTimeout(timer)
      timer = undefined
      const shot = await api<ServerShot>(`/api/shots/${id}`)
      this.$patch({
        id,
        name: shot.name,
        revision: shot.revision,
        cursor: shot.cursor,
        changes: shot.changes,
        frame: shot.document.frames.first,
        state: 'saved',
        message: this.arriving,
        arriving: '',
        conflict: null,
      })
      this.document = shot.document
      committed = copyOf(shot.document)
      await this.takeUnsaved()
    },

    /** Work that this browser kept but the server never got: the page was killed in between. */
    async takeUnsaved() {
      const text = localStorage.getItem(keepKey(this.id))
      if (!text) return
      try {
        const kept = JSON.parse(text) as Unsaved
        const today = 'changes' in kept && kept.version === DOCUMENT_VERSION
        const changes = today ? kept.changes : await this.changesOfBefore(kept)
        this.layOver(committed!, kept.label, changes)
        this.message ||= 'Changes that were not saved when the page closed have been brought back.'
        void this.save()
      } catch (error) {
        // Put aside: the next change would be kept in its place
        localStorage.setItem(`${keepKey(this.id)}/aside`, text)
        this.message = `Changes that were not saved when the page closed cannot be read: ${(error as Error).message}`
      }
    },

    /** What a page of before had not saved yet, made of the shot as it was then, as changes of today's. */
    async changesOfBefore(kept: Unsaved): Promise<Change[]> {
      const { document } = await api<{ document: object }>(`/api/shots/${this.id}/former`)
      const changed = copyOf(document)
      if ('patch' in kept) jsonPatch.applyPatch(changed, kept.patch)
      else forceChanges(changed as ShotDocument, kept.changes)
      return changesBetween(ofToday(document) as ShotDocument, ofToday(changed) as ShotDocument)
    },

    /** Lays changes of ours over the newest document. What does not fit is told, and asked about. */
    layOver(newest: ShotDocument, label: string, changes: readonly Change[]) {
      const { document, refused } = layChanges(newest, changes)
      this.document = document
      pendingLabel = label
      const gone = refused.filter(thing => thing.gone).map(({ name }) => name)
      if (gone.length)
        this.message = `${quoted(gone)} ${was(gone)} deleted elsewhere; what you changed there was left out.`
      this.ask(
        label,
        refused.filter(thing => !thing.gone),
      )
    },
    ask(label: string, refused: readonly Refused[]) {
      if (!refused.length) return
      const names = [...(this.conflict?.names ?? []), ...refused.map(({ name }) => name)]
      this.conflict = {
        label,
        changes: [...(this.conflict?.changes ?? []), ...refused.flatMap(({ changes }) => changes)],
        names: [...new Set(names)],
      }
    },

    /** What the server does not have yet: what differs, and what is asked about. */
    unsaved(): Change[] {
      return [...changesBetween(committed!, plain(this.document)), ...(this.conflict?.changes ?? [])]
    },
    keepOrForget() {
      clearTimeout(keeping)
      keeping = undefined
      const changes = this.unsaved()
      if (changes.length) keepUnsaved(this.id, pendingLabel, changes)
      else localStorage.removeItem(keepKey(this.id))
    },

    /** What waits to be kept is kept: the page goes, or another shot comes. */
    keepNow() {
      if (keeping) this.keepOrForget()
    },

    /** Changes the document. live: part of a drag, saved when it rests. */
    change(label: string, mutate: (document: ShotDocument) => void, live = false) {
      if (!this.document) return
      const next = copyOf(this.document)
      mutate(next)
      this.document = next
      pendingLabel = label
      clearTimeout(timer)
      if (live) {
        // Written at every step of a hand it would cost the picture its time
        keeping ??= setTimeout(() => this.keepOrForget(), KEEP_WITHIN)
        timer = setTimeout(() => {
          void this.save()
        }, 350)
      } else {
        this.keepOrForget()
        void this.save()
      }
    },

    /** Sends what is not saved yet; one request at a time. */
    async save(): Promise<void> {
      clearTimeout(timer)
      timer = undefined
      if (saving) {
        await saving
        return this.save()
      }
      if (!this.document) return
      const sent = copyOf(this.document)
      const changes = changesBetween(committed!, sent)
      if (!changes.length) {
        this.keepOrForget()
        this.state = 'saved'
        return
      }
      const label = pendingLabel
      const waited = this.state === 'waiting'
      this.state = 'saving'
      const { id } = this
      saving = api<{ revision: number; cursor: number }>(`/api/shots/${id}`, {
        method: 'PATCH',
        json: { version: DOCUMENT_VERSION, revision: this.revision, label, patch: patchOf(changes) },
      })
        .then(({ revision, cursor }) => {
          if (this.id !== id) return
          committed = sent
          this.$patch({ revision, cursor, changes: cursor, state: 'saved', message: waited ? '' : this.message })
          this.keepOrForget()
        })
        .catch((error: unknown) => this.refused(error, label))
        .finally(() => {
          saving = undefined
        })
      await saving
      // What was changed while the request was under way; a drag that still goes on is saved whole, when it rests
      if (!timer && (this.state as string) === 'saved' && changesBetween(committed!, plain(this.document)).length)
        return this.save()
    },

    refused(error: unknown, label: string) {
      if (!(error instanceof ServerSays)) throw error
      if (error.status === 409) {
        const { revision, document } = error.data as { revision: number; document: ShotDocument }
        // Also what was changed while the request was under way
        const ours = changesBetween(committed!, plain(this.document))
        committed = document
        this.revision = revision
        this.layOver(document, label, ours)
        this.keepOrForget()
        this.state = 'saving'
        setTimeout(() => {
          void this.save()
        })
        return
      }
      this.message = error.message
      // No answer, or a server that fails: nothing is wrong with the change, so it is kept and sent again
      if (error.status === 0 || error.status >= 500) {
        this.state = 'waiting'
        timer = setTimeout(() => {
          void this.save()
        }, 2000)
        return
      }
      // Refused as invalid: back to what is saved
      this.document = copyOf(committed!)
      this.keepOrForget()
      this.state = 'saved'
    },

    /** Ends a conflict: take theirs, or lay ours over it all the same. */
    settle(ours: boolean) {
      const { conflict } = this
      if (!conflict) return
      this.conflict = null
      if (ours) this.layAllTheSame(plain(this.document), conflict.label, conflict.changes)
      this.keepOrForget()
      void this.save()
    },

    /** Lays changes of ours over a document whatever stands there; told is what holds them and is no longer there. */
    layAllTheSame(newest: ShotDocument, label: string, changes: readonly Change[]) {
      const document = copyOf(newest)
      const gone = forceChanges(document, changes)
      if (gone.length)
        this.message = `${quoted([...new Set(gone.map(({ thing }) => thing.name))])} ${gone.length > 1 ? 'are' : 'is'} no longer there; what you changed there was left out.`
      this.document = document
      pendingLabel = label
    },

    /** One after another: a second press while the first is under way must not be lost. */
    step(direction: 'undo' | 'redo'): Promise<void> {
      stepping = stepping.catch(nothing).then(() => this.stepNow(direction))
      return stepping
    },
    async stepNow(direction: 'undo' | 'redo'): Promise<void> {
      await this.save()
      if (!this.document || (this.state as string) === 'waiting') return
      try {
        const { id } = this
        const asked = api<{ revision: number; cursor: number; document: ShotDocument; label: string | null }>(
          `/api/shots/${id}/step/${direction}`,
          { method: 'POST', json: { revision: this.revision } },
        )
        // What is changed meanwhile is sent after it
        saving = asked.then(nothing, nothing).finally(() => {
          saving = undefined
        })
        const answer = await asked
        if (this.id !== id) return
        const since = changesBetween(committed!, plain(this.document))
        committed = copyOf(answer.document)
        this.document = answer.document
        this.$patch({
          revision: answer.revision,
          cursor: answer.cursor,
          message: answer.label
            ? `${direction === 'undo' ? 'Undone' : 'Redone'}: ${answer.label}`
            : direction === 'undo' && answer.cursor > 0
              ? 'What was done before cannot be undone: it was kept by an older Northmist in a way that cannot be read.'
              : '',
        })
        // What was changed while it was under way comes after it
        if (since.length) {
          this.layAllTheSame(answer.document, pendingLabel, since)
          await this.save()
        }
      } catch (error) {
        if (error instanceof ServerSays && error.status === 409) await this.refresh()
        else this.message = (error as Error).message
      }
    },

    /** Another page, or a job, changed the shot. */
    async heard(revision: number): Promise<void> {
      if (revision <= this.revision) return
      // It may be of what we are sending
      if (saving) {
        await saving
        return this.heard(revision)
      }
      if (changesBetween(committed!, plain(this.document)).length) return this.save()
      await this.refresh().catch((error: unknown) => {
        if (!(error instanceof ServerSays)) throw error
        this.message = error.message
      })
    },
    async refresh() {
      const shot = await api<ServerShot>(`/api/shots/${this.id}`)
      if (shot.id !== this.id || shot.revision < this.revision) return
      const since = changesBetween(committed!, plain(this.document))
      committed = copyOf(shot.document)
      this.$patch({ name: shot.name, revision: shot.revision, cursor: shot.cursor, changes: shot.changes })
      if (!since.length) {
        this.document = shot.document
        return
      }
      // What was changed while it was on its way
      this.layOver(shot.document, pendingLabel, since)
      this.keepOrForget()
      await this.save()
    },
  },
})

let committed: ShotDocument | null = null
let pendingLabel = 'Change'
let timer: ReturnType<typeof setTimeout> | undefined
let saving: Promise<void> | undefined
let keeping: ReturnType<typeof setTimeout> | undefined
let stepping: Promise<void> = Promise.resolve()
const nothing = (): void => {}
