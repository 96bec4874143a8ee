// Jobs that are done piece by piece: each piece is kept when it is done, and after a break work goes on with the next.
import { eq } from 'drizzle-orm'
import { closeSync, openSync, readSync } from 'node:fs'
import {
  DELIVERY_ENDINGS,
  frameFormatOf,
  isMovie,
  MOVIE_ENDINGS,
  type DeliveryFormat,
  type PassFormat,
} from '../../core/compose/deliveries'
import { videoContainer } from '../../core/formats/video/video'
import { takePasses } from '../../core/shot/layers'
import { joinFrames } from '../../core/shot/passFrames'
import { timecodeAt } from '../../core/shot/timecode'
import { frameName, parseFrames } from '../../core/time/frameList'
import { jobs } from '../database/schema'
import { attach, attachClip, attachFound } from './attach'
import { context } from './context'
import { work, type WorkEnd } from './engine'
import { jobRow, patiently, previews, progress, touch, type JobRow, type Settings } from './jobState'

export function isVideo(path: string): boolean {
  const head = Buffer.alloc(64)
  const file = openSync(path, 'r')
  try {
    return videoContainer(head.subarray(0, readSync(file, head, 0, 64, 0))) !== undefined
  } finally {
    closeSync(file)
  }
}

/** Hands the work of one frame to the engine and waits for it. */
export async function perform(
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
export async function renderRange(row: JobRow, first: number, last: number): Promise<WorkEnd> {
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
export async function sendRange(row: JobRow, shotName: string): Promise<WorkEnd> {
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
export async function importFootage(row: JobRow): Promise<WorkEnd> {
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
