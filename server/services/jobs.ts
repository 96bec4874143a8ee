// Long work on a queue (pg-boss) in the same database, done one piece after another by the engine's process.
import { and, desc, eq, inArray } from 'drizzle-orm'
import PgBoss from 'pg-boss'
import { isMovie } from '../../core/compose/deliveries'
import { BadInput } from '../../core/formats/errors'
import { MAXIMUM_FRAMES } from '../../core/shot/clip'
import { identifier, type PictureReference } from '../../core/shot/document'
import { keepVersion } from './ledger'
import { takePasses } from '../../core/shot/layers'
import { hasObjects } from '../../core/shot/scene'
import { parseFrames } from '../../core/time/frameList'
import { clipOfVideo } from '../../host/clips'
import type { StartImport } from '../../shared/requests'
import { jobs, type JobKind } from '../database/schema'
import { attach, attachClip } from './attach'
import { context } from './context'
import { cancelWork, stopEngine, type WorkEnd } from './engine'
import { importFootage, isVideo, perform, renderRange, sendRange } from './jobPieces'
import {
  announce,
  isStopping,
  jobRow,
  patiently,
  previews,
  progress,
  stopWaiting,
  view,
  type JobRow,
  type JobView,
  type Settings,
} from './jobState'
import { getShot, NotFound } from './shots'

const QUEUE = 'work'

let boss: PgBoss | undefined
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
  stopWaiting()
  stopEngine()
  await boss?.stop({ graceful: false })
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
  if (isStopping()) return
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
  // What is sent stays reachable as it was
  if (kind === 'send') await keepVersion(shotId, `sent as ${String(settings.name ?? shot.name)}`.slice(0, 200), 'sent')
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
