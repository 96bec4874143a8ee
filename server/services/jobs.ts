// Long work on a queue (pg-boss) in the same database, done one piece after another by the engine's process.
import { and, desc, eq, inArray } from 'drizzle-orm'
import { closeSync, openSync, readSync } from 'node:fs'
import PgBoss from 'pg-boss'
import {
  DELIVERY_ENDINGS,
  frameFormatOf,
  isMovie,
  MOVIE_ENDINGS,
  type DeliveryFormat,
  type MovieFormat,
  type PassFormat,
} from '../../core/compose/deliveries'
import { timecodeAt } from '../../core/shot/timecode'
import { frameName, parseFrames } from '../../core/time/frameList'
import { identifier } from '../../core/shot/document'
import { BadInput } from '../../core/formats/errors'
import { takePasses } from '../../core/shot/layers'
import type { PictureReference } from '../../core/shot/document'
import { MAXIMUM_FRAMES } from '../../core/shot/clip'
import { joinFrames, type RangeMade } from '../../core/shot/passFrames'
import { hasObjects } from '../../core/shot/scene'
import { videoContainer } from '../../core/formats/video/video'
import { clipOfVideo } from '../../host/clips'
import type { StartImport } from '../../shared/requests'
import { jobs, type JobKind, type JobResult } from '../database/schema'
import { attach, attachClip, attachFound } from './attach'
import { context } from './context'
import { cancelWork, stopEngine, work, type WorkEnd } from './engine'
import { tell } from './news'
import { outageOf } from './outage'
import { getShot, NotFound } from './shots'

const QUEUE = 'work'
export type JobRow = typeof jobs.$inferSelect

let boss: PgBoss | undefined
let stopping = false
const previews = new Map<string, Uint8Array>()
/** base, span, about: where the piece that is being worked on lies in the whole, and what it is. */
const progress = new Map<
  string,
  { share: number; message: string; startedAt: number; base: number; span: number; about: string }
>()

/** A job without the document it works on. */
export type JobView = Omit<JobRow, 'document'> & { secondsLeft?: number }
function view({ document: _document, ...whole }: JobRow): JobView {
  const { made: _made, sent: _sent, brought: _brought, files: came, ...settings } = whole.settings as Settings
  const { files, ...result } = whole.result ?? ({} as JobResult)
  const row = {
    ...whole,
    // Of numbered files the first stands for all: there may be thousands
    settings: { ...settings, ...(came && { files: came.slice(0, 1) }) } as JobRow['settings'],
    result: whole.result && { ...result, ...(files && { count: files.length }) },
  }
  const now = progress.get(row.id)
  if (!now || row.state !== 'running') return row
  const elapsed = (Date.now() - now.startedAt) / 1000
  return {
    ...row,
    progress: now.share,
    message: now.message,
    secondsLeft: now.share > 0.03 ? elapsed / now.share - elapsed : undefined,
  }
}
const announce = (row: JobRow): void =>
  tell({ kind: 'job', id: row.id, shotId: row.shotId, job: view(row) as unknown as Record<string, unknown> })

export async function startJobs(): Promise<void> {
  const { url, database } = await context()
  boss = new PgBoss({ connectionString: url, schema: 'northmist_queue', max: 4 })
  boss.on('error', error => console.error('queue:', error.message))
  await boss.start()
  await boss.createQueue(QUEUE)
  // What a killed server left behind starts again, unless it was to end
  await database
    .update(jobs)
    .set({ state: 'cancelled', message: null, finishedAt: new Date() })
    .where(and(eq(jobs.state, 'running'), eq(jobs.cancelRequested, true)))
  const left = await database
    .update(jobs)
    .set({ state: 'queued', progress: 0, message: null })
    .where(eq(jobs.state, 'running'))
    .returning()
  await boss.purgeQueue(QUEUE)
  const queued = await database
    .select({ id: jobs.id })
    .from(jobs)
    .where(eq(jobs.state, 'queued'))
    .orderBy(jobs.createdAt)
  for (const { id } of queued) await send(id)
  if (left.length) console.log(`${left.length} unfinished jobs start again`)
  await boss.work<{ id: string }>(QUEUE, { batchSize: 1, pollingIntervalSeconds: 0.5 }, async ([job]) => {
    if (!job) return
    // One after another, whatever the queue thinks of how long one may take
    turn = turn.then(() => run(job.data.id)).catch(error => console.error('job:', error))
    await turn
  })
}
let turn = Promise.resolve()

/** The queue's own limits are of no use here: this table says what runs, and work takes as long as it takes. */
const send = (id: string): Promise<unknown> => boss!.send(QUEUE, { id }, { retryLimit: 0, expireInHours: 23 })

export async function stopJobs(): Promise<void> {
  stopping = true
  stopEngine()
  await boss?.stop({ graceful: false })
}

/** Does a thing with the database, again and again while that is away: what was computed must not be lost for it. */
async function patiently<T>(thing: () => Promise<T>): Promise<T> {
  for (;;) {
    try {
      return await thing()
    } catch (error) {
      if (!outageOf(error) || stopping) throw error
      await new Promise(resolve => setTimeout(resolve, 1000))
    }
  }
}

let touched = 0
async function touch(id: string): Promise<void> {
  const now = Date.now()
  if (now - touched < 200) return
  touched = now
  const row = await jobRow(id).catch(() => undefined)
  if (row) announce(row)
}

async function jobRow(id: string): Promise<JobRow> {
  const { database } = await context()
  const [row] = await database.select().from(jobs).where(eq(jobs.id, id))
  if (!row) throw new NotFound('There is no such job.')
  return row
}

/** A job that ends the engine's process is tried once more, then failed. */
const MOST_TRIES = 2

async function run(id: string): Promise<void> {
  const { database } = await context()
  const [row] = await patiently(() =>
    database
      .update(jobs)
      .set({ state: 'running', startedAt: new Date() })
      .where(and(eq(jobs.id, id), eq(jobs.state, 'queued')))
      .returning(),
  )
  if (!row) return
  progress.set(id, { share: 0, message: 'starting', startedAt: Date.now(), base: 0, span: 1, about: '' })
  announce(row)
  const shot = await patiently(() => getShot(row.shotId)).catch(() => undefined)
  const settings = row.settings as Settings
  const { last } = settings
  let news: WorkEnd
  try {
    news =
      row.kind === 'render' && last !== undefined && last > settings.frame
        ? await renderRange(row, settings.frame, last)
        : row.kind === 'send' && (settings.frames || isMovie(settings.format ?? ''))
          ? await sendRange(row, shot?.name ?? 'shot')
          : row.kind === 'import'
            ? await importFootage(row)
            : await perform(row, settings.frame, shot?.name ?? 'shot')
  } catch (error) {
    news = { id, kind: 'failed', message: (error as Error).message }
  }
  // Ended with the server: it goes on where it was when that is back
  if (stopping) return
  if (news.kind === 'died') {
    const now = await patiently(() => jobRow(id)).catch(() => undefined)
    if (!now) return
    const tries = ((now.settings as Settings).tries ?? 0) + 1
    if (now.cancelRequested) news = { id, kind: 'cancelled' }
    else if (tries >= MOST_TRIES)
      news = {
        id,
        kind: 'failed',
        message: `This work ended the engine ${tries} times (${news.message}), so it is not tried again. One of its files may be damaged, or it needs more memory than there is.`,
      }
    else {
      await patiently(() =>
        database
          .update(jobs)
          .set({ state: 'queued', settings: { ...now.settings, tries } })
          .where(eq(jobs.id, id)),
      )
      progress.delete(id)
      await patiently(() => send(id))
      return
    }
  }
  await patiently(() => finished(row, news))
}

type Settings = {
  frame: number
  last?: number
  /** Passes that still stand are rendered again too. */
  all?: boolean
  /** How often it ended the engine. */
  tries?: number
  /** Frames of a range that are done. */
  made?: RangeMade
  format?: DeliveryFormat | PassFormat | MovieFormat
  /** Frames of a sending, in writing, its name, and which are made. */
  frames?: string
  name?: string
  sent?: Record<string, string>
  /** Footage that is part of the shot already. */
  brought?: PictureReference
} & Partial<StartImport>

/** Hands the work of one frame to the engine and waits for it. */
async function perform(
  row: JobRow,
  frame: number,
  shotName: string,
  change: Partial<Parameters<typeof work>[1]> = {},
): Promise<WorkEnd> {
  const { id } = row
  const { store } = await context()
  const fresh = await patiently(() => jobRow(id))
  if (fresh.cancelRequested) return { id, kind: 'cancelled' }
  const settings = row.settings as Settings
  const files = settings.files && {
    files: settings.files,
    video: row.kind === 'import' && isVideo(store.path(settings.files[0]!.blob)),
    steady: settings.steady,
    wholeFrames: settings.wholeFrames,
  }
  return work(
    store.folder,
    {
      id,
      kind: row.kind,
      document: row.document,
      frame,
      format: isMovie(settings.format ?? '') ? undefined : (settings.format as DeliveryFormat | PassFormat),
      all: settings.all || settings.last !== undefined,
      files,
      shotName,
      ...change,
    },
    news => {
      const now = progress.get(id)
      if (now) {
        now.share = now.base + now.span * news.share
        now.message = now.about + news.message
      }
      if (news.preview) previews.set(id, news.preview)
      void touch(id)
    },
  )
}

/**
 * A range of frames, each kept when it is done: after a break it goes on with the first that is missing. What there is
 * when it is cancelled or fails is kept too.
 */
async function renderRange(row: JobRow, first: number, last: number): Promise<WorkEnd> {
  const { database, store } = await context()
  const count = last - first + 1
  const { made: before, ...settings } = row.settings as Settings
  let made = before
  let news: WorkEnd = { id: row.id, kind: 'cancelled' }
  for (let frame = first; frame <= last; frame++) {
    if (made?.blobs[frame]) continue
    const now = progress.get(row.id)
    if (now)
      Object.assign(now, {
        base: (frame - first) / count,
        span: 1 / count,
        about: `frame ${frame} of ${first} to ${last}: `,
      })
    news = await perform(row, frame, '')
    if (news.kind !== 'done') break
    made = { file: news.result.passFile!, blobs: { ...made?.blobs, [frame]: news.result.blob } }
    const soFar = { ...settings, made }
    await patiently(() => database.update(jobs).set({ settings: soFar }).where(eq(jobs.id, row.id)))
  }
  if (!made || news.kind === 'died') return news
  const file = joinFrames(made, first, last)
  const blobs = Object.values(made.blobs)
  if (blobs.length === count)
    return {
      id: row.id,
      kind: 'done',
      result: {
        blob: file.blob,
        name: file.name,
        bytes: (await Promise.all(blobs.map(blob => store.size(blob)))).reduce((sum, size) => sum + size, 0),
        passFile: file,
      },
    }
  await attach(row.shotId, `Passes of ${blobs.length} frames`, document => takePasses(document, file))
  return news
}

/**
 * A sending of many frames: each a file of its own that is kept when it is done, so that it goes on after a break; then
 * one movie of them, where that is asked for.
 */
async function sendRange(row: JobRow, shotName: string): Promise<WorkEnd> {
  const { database, store } = await context()
  const { sent: before, ...settings } = row.settings as Settings
  const format = settings.format!
  const movie = isMovie(format) ? format : undefined
  const { first, last } = row.document.frames
  const frames = settings.frames ? parseFrames(settings.frames) : range(first, last)
  const sent: Record<string, string> = { ...before }
  const name = settings.name ?? shotName
  const share = movie ? 0.85 : 1
  let made: WorkEnd = { id: row.id, kind: 'cancelled' }
  for (const [i, frame] of frames.entries()) {
    if (sent[frame]) continue
    const now = progress.get(row.id)
    if (now)
      Object.assign(now, {
        base: (share * i) / frames.length,
        span: share / frames.length,
        about: `frame ${frame}, ${i + 1} of ${frames.length}: `,
      })
    made = await perform(row, frame, shotName, {
      format: movie ? frameFormatOf(movie) : (format as DeliveryFormat | PassFormat),
    })
    if (made.kind !== 'done') return made
    sent[frame] = made.result.blob
    await patiently(() =>
      database
        .update(jobs)
        .set({ settings: { ...settings, sent } })
        .where(eq(jobs.id, row.id)),
    )
  }
  if (movie) {
    const now = progress.get(row.id)
    if (now) Object.assign(now, { base: share, span: 1 - share, about: '' })
    const settingsOfMovie = {
      format: movie,
      rate: row.document.rate,
      timecode: timecodeAt(row.document, frames[0]!),
      count: frames.length,
    }
    const end = await perform(row, frames[0]!, shotName, {
      kind: 'movie',
      format: undefined,
      movie: { frames: frames.map(frame => sent[frame]!), settings: settingsOfMovie },
    })
    if (end.kind === 'done') end.result.name = frameName(name, frames[0]!, MOVIE_ENDINGS[movie], false)
    return end
  }
  const ending = DELIVERY_ENDINGS[format as DeliveryFormat | PassFormat]
  const files = frames.map(frame => ({ name: frameName(name, frame, ending, true), blob: sent[frame]! }))
  const sizes = await Promise.all(files.map(file => store.size(file.blob)))
  return {
    id: row.id,
    kind: 'done',
    result: {
      blob: files[0]!.blob,
      name: `${frameName(name.replace(/[ ._-]*#+/g, ''), 0, 'zip', false)}`,
      bytes: sizes.reduce((sum, size) => sum + size, 0),
      files,
    },
  }
}
/**
 * Footage is part of the shot as soon as its first frame is known; then all of it is looked through. After a break it
 * goes on with that.
 */
async function importFootage(row: JobRow): Promise<WorkEnd> {
  const { database } = await context()
  const { brought, ...settings } = row.settings as Settings
  let clip = brought
  if (!clip) {
    const made = await perform(row, 0, '')
    if (made.kind !== 'done') return made
    clip = made.result.clip!
    await patiently(() => attachClip(row, clip!))
    const soFar = { ...settings, brought: clip }
    await patiently(() => database.update(jobs).set({ settings: soFar }).where(eq(jobs.id, row.id)))
  }
  const { steady, wholeFrames } = settings
  const end = await perform(row, 0, '', { kind: 'check', clip: { made: clip, options: { steady, wholeFrames } } })
  if (end.kind !== 'done') return end
  const { clip: found, words } = end.result
  if (found) await patiently(() => attachFound(row.shotId, clip, found))
  return words ? { id: row.id, kind: 'failed', message: words } : end
}

const range = (first: number, last: number): number[] => Array.from({ length: last - first + 1 }, (_, i) => first + i)

async function finished(row: JobRow, news: WorkEnd): Promise<void> {
  const { id } = row
  const { database } = await context()
  progress.delete(id)
  // The shot has the frames of a range now; the job need not remember them
  const { made: _made, sent: _sent, brought: _brought, ...settings } = row.settings as Settings
  let values: Partial<JobRow> = { finishedAt: new Date(), settings: settings as JobRow['settings'] }
  if (news.kind === 'done') {
    const { blob, name, bytes, files, passFile } = news.result
    values = { ...values, state: 'done', progress: 1, message: null, result: { blob, name, bytes, files } }
    if (passFile) await attach(row.shotId, 'Passes rendered', document => takePasses(document, passFile))
  } else if (news.kind === 'cancelled') values = { ...values, state: 'cancelled', message: null }
  else values = { ...values, state: 'failed', message: news.kind === 'failed' ? news.message : 'unknown' }
  const [done] = await database.update(jobs).set(values).where(eq(jobs.id, id)).returning()
  if (done) announce(done)
  setTimeout(() => previews.delete(id), 10000)
}

function isVideo(path: string): boolean {
  const head = Buffer.alloc(64)
  const file = openSync(path, 'r')
  try {
    return videoContainer(head.subarray(0, readSync(file, head, 0, 64, 0))) !== undefined
  } finally {
    closeSync(file)
  }
}

/**
 * A video is there before its turn comes, however long what runs may take. One that cannot be read is refused in its
 * turn.
 */
async function atOnce({ files, steady, wholeFrames }: StartImport): Promise<PictureReference | undefined> {
  const { store } = await context()
  const { blob, name } = files[0]!
  if (!isVideo(store.path(blob))) return undefined
  return clipOfVideo(store, blob, name, { steady, wholeFrames }).catch(() => undefined)
}

export async function startJob(shotId: string, kind: JobKind, settings: Record<string, unknown>): Promise<JobView> {
  const { database } = await context()
  const shot = await getShot(shotId)
  if (kind === 'render' && !hasObjects(shot.document))
    throw new BadInput('There is no scene to render: bring one in at the station Scene, or draw a stand-in.')
  const { frame, last } = settings as Partial<Settings>
  if (last !== undefined && frame !== undefined && (last < frame || last - frame >= MAXIMUM_FRAMES))
    throw new BadInput(`Frames ${frame} to ${last} are no range that can be rendered (at most ${MAXIMUM_FRAMES}).`)
  const { frames, format } = settings as Partial<Settings>
  if (kind === 'send' && frames !== undefined) {
    // Refused now, with what is wrong, rather than when its turn comes
    const list = parseFrames(frames)
    if (format?.startsWith('passes') && !shot.document.passes.file)
      throw new BadInput('There are no passes yet: render them at the station Passes.')
    if (isMovie(format ?? '') && list.some((value, i) => i && value < list[i - 1]!))
      throw new BadInput('A movie runs forward: name its frames in their order.')
  }
  const brought = kind === 'import' ? await atOnce(settings as unknown as StartImport) : undefined
  const [row] = await database
    .insert(jobs)
    .values({ id: identifier(), shotId, kind, settings: { ...settings, brought }, document: shot.document })
    .returning()
  try {
    if (brought) await attachClip(row!, brought)
    await send(row!.id)
  } catch (error) {
    // Not in the queue: nobody would ever do it
    await database.delete(jobs).where(eq(jobs.id, row!.id))
    throw error
  }
  announce(row!)
  return view(row!)
}

export async function listJobs(shotId?: string): Promise<JobView[]> {
  const { database } = await context()
  const rows = await database
    .select()
    .from(jobs)
    .where(shotId ? eq(jobs.shotId, shotId) : inArray(jobs.state, ['queued', 'running']))
    .orderBy(desc(jobs.createdAt))
    .limit(100)
  return rows.map(view)
}

export async function cancelJob(id: string): Promise<JobView> {
  const { database } = await context()
  await jobRow(id)
  const [queued] = await database
    .update(jobs)
    .set({ state: 'cancelled', finishedAt: new Date() })
    .where(and(eq(jobs.id, id), eq(jobs.state, 'queued')))
    .returning()
  if (queued) {
    announce(queued)
    return view(queued)
  }
  await database.update(jobs).set({ cancelRequested: true }).where(eq(jobs.id, id))
  cancelWork(id)
  return view(await jobRow(id))
}

export const getJob = async (id: string): Promise<JobView> => view(await jobRow(id))
/** The numbered files that a job made. Throws NotFound where it made none. */
export async function filesOfJob(id: string): Promise<{ name: string; files: { name: string; blob: string }[] }> {
  const { result } = await jobRow(id)
  if (!result?.files) throw new NotFound('This job made no numbered files.')
  return { name: result.name, files: result.files }
}
export const previewOf = (id: string): Uint8Array | undefined => previews.get(id)
