// The open shot. Every change is kept in this browser at once and saved to the server as a JSON Patch on the revision
// it was made from.
import jsonPatch, { type Operation } from 'fast-json-patch'
import { defineStore } from 'pinia'
import { sceneStamp } from '../../core/shot/stamp'
import type { ShotDocument } from '../../core/shot/document'
import { patchBetween } from '../../core/shot/patch'
import { api, ServerSays } from '~/composables/api'

interface ServerShot {
  id: string
  name: string
  document: ShotDocument
  revision: number
  cursor: number
  changes: number
}
const copyOf = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T
const keepKey = (id: string): string => `northmist/unsaved/${id}`

/** Kept in this browser until it is saved. One that has no room for it must not stop the saving itself. */
function keepUnsaved(id: string, label: string, patch: Operation[]): void {
  try {
    localStorage.setItem(keepKey(id), JSON.stringify({ label, patch }))
  } catch {
    localStorage.removeItem(keepKey(id))
  }
}

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
    /** A change of ours that does not fit what another page saved meanwhile. */
    conflict: null as null | { label: string; patch: Operation[]; revision: number; theirs: ShotDocument },
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
      saving = undefined
      clearTimeout(timer)
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
      this.takeUnsaved()
    },

    /** Work that this browser kept but the server never got: the page was killed in between. */
    takeUnsaved() {
      const kept = localStorage.getItem(keepKey(this.id))
      if (!kept) return
      const { patch, label } = JSON.parse(kept) as { patch: Operation[]; label: string }
      try {
        this.document = jsonPatch.applyPatch(copyOf(committed!), patch, true).newDocument
        pendingLabel = label
        this.message = 'Changes that were not saved when the page closed have been brought back.'
        void this.save()
      } catch {
        // It touches what somebody else has changed since: never thrown away without a word
        this.conflict = { label, patch, revision: this.revision, theirs: copyOf(committed!) }
      }
    },

    /** Changes the document. live: part of a drag, saved when it rests. */
    change(label: string, mutate: (document: ShotDocument) => void, live = false) {
      if (!this.document) return
      const next = copyOf(this.document)
      mutate(next)
      this.document = next
      pendingLabel = label
      keepUnsaved(this.id, label, patchBetween(committed!, next))
      clearTimeout(timer)
      if (live)
        timer = setTimeout(() => {
          void this.save()
        }, 350)
      else void this.save()
    },

    /** Sends what is not saved yet; one request at a time. */
    async save(): Promise<void> {
      clearTimeout(timer)
      if (saving) {
        await saving
        return this.save()
      }
      if (!this.document || this.conflict) return
      const patch = patchBetween(committed!, copyOf(this.document))
      if (!patch.length) {
        localStorage.removeItem(keepKey(this.id))
        this.state = 'saved'
        return
      }
      const sent = copyOf(this.document)
      const label = pendingLabel
      const waited = this.state === 'waiting'
      this.state = 'saving'
      const { id } = this
      saving = api<{ revision: number; cursor: number }>(`/api/shots/${id}`, {
        method: 'PATCH',
        json: { revision: this.revision, label, patch },
      })
        .then(({ revision, cursor }) => {
          if (this.id !== id) return
          committed = sent
          this.$patch({ revision, cursor, changes: cursor, state: 'saved', message: waited ? '' : this.message })
          if (!jsonPatch.compare(committed, copyOf(this.document!)).length) localStorage.removeItem(keepKey(id))
        })
        .catch((error: unknown) => this.refused(error, label, patch))
        .finally(() => {
          saving = undefined
        })
      await saving
      // What was changed while the request was under way
      if ((this.state as string) === 'saved' && jsonPatch.compare(committed!, copyOf(this.document)).length)
        return this.save()
    },

    refused(error: unknown, label: string, patch: Operation[]) {
      if (!(error instanceof ServerSays)) throw error
      if (error.status === 409) {
        const { revision, document } = error.data as { revision: number; document: ShotDocument }
        try {
          // Ours is laid over theirs where they do not touch the same values (the patch tests what it replaces)
          this.document = jsonPatch.applyPatch(copyOf(document), patch, true).newDocument
          committed = document
          this.revision = revision
          this.state = 'saving'
          setTimeout(() => {
            void this.save()
          })
        } catch {
          this.conflict = { label, patch, revision, theirs: document }
        }
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
      localStorage.removeItem(keepKey(this.id))
      this.state = 'saved'
    },

    /** Ends a conflict: take theirs, or lay ours over it all the same. */
    settle(ours: boolean) {
      const conflict = this.conflict
      if (!conflict) return
      committed = conflict.theirs
      this.revision = conflict.revision
      this.conflict = null
      // What is replaced may have changed; which item of a list it is may not
      const forced = conflict.patch.filter(({ op, path }) => op !== 'test' || path.endsWith('/id'))
      let document = copyOf(conflict.theirs)
      if (ours) {
        try {
          document = jsonPatch.applyPatch(document, forced, true).newDocument
        } catch {
          this.message = 'What your change was made to is no longer there, or not at that place; it was left out.'
        }
      }
      this.document = document
      pendingLabel = conflict.label
      void this.save()
    },

    /** One after another: a second press while the first is under way must not be lost. */
    step(direction: 'undo' | 'redo'): Promise<void> {
      stepping = stepping.catch(() => {}).then(() => this.stepNow(direction))
      return stepping
    },
    async stepNow(direction: 'undo' | 'redo'): Promise<void> {
      await this.save()
      if (this.conflict || !this.document || (this.state as string) === 'waiting') return
      try {
        const answer = await api<{ revision: number; cursor: number; document: ShotDocument; label: string | null }>(
          `/api/shots/${this.id}/step/${direction}`,
          { method: 'POST', json: { revision: this.revision } },
        )
        committed = copyOf(answer.document)
        this.document = answer.document
        this.$patch({
          revision: answer.revision,
          cursor: answer.cursor,
          message: answer.label ? `${direction === 'undo' ? 'Undone' : 'Redone'}: ${answer.label}` : '',
        })
      } catch (error) {
        if (error instanceof ServerSays && error.status === 409) await this.refresh()
        else this.message = (error as Error).message
      }
    },

    /** Another page, or a job, changed the shot. */
    async heard(revision: number) {
      if (revision <= this.revision || saving || this.conflict) return
      if (jsonPatch.compare(committed!, copyOf(this.document!)).length) return this.save()
      await this.refresh()
    },
    async refresh() {
      const shot = await api<ServerShot>(`/api/shots/${this.id}`)
      if (shot.revision < this.revision) return
      committed = copyOf(shot.document)
      this.document = shot.document
      this.$patch({ name: shot.name, revision: shot.revision, cursor: shot.cursor, changes: shot.changes })
    },
  },
})

let committed: ShotDocument | null = null
let pendingLabel = 'Change'
let timer: ReturnType<typeof setTimeout> | undefined
let saving: Promise<void> | undefined
let stepping: Promise<void> = Promise.resolve()
