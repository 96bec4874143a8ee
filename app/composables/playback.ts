// Playing the picture: frames are computed ahead, kept, and shown by the clock. What was not ready in time is counted
// as dropped.
import { perSecond } from '../../core/time/rate'
import type { ShotDocument } from '../../core/shot/document'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { PictureOrder } from '~/workers/messages'
import { engine } from './engine'

/** Memory for kept frames. */
const BUDGET = 640 * 1048576
/** Larger frames are played at half size. */
const FULL_PIXELS = 0.6e6

const frames = new Map<number, ImageBitmap>()
let key = ''
let bytes = 0
let gathering = false
let playId = 0

function clear(): void {
  for (const bitmap of frames.values()) bitmap.close()
  frames.clear()
  bytes = 0
  useView().keptFrames = []
}

/** The frames played: the marked range, or the whole shot. */
export function playedRange(): { first: number; last: number } {
  const view = useView()
  const { frames: all } = useShot().document!
  return view.range ? { first: Math.max(all.first, view.range.first), last: Math.min(all.last, view.range.last) } : all
}

function order(frame: number, document: ShotDocument): PictureOrder {
  const view = useView()
  const { width, height } = document.frame
  const pixels = width * height
  return {
    document,
    frame,
    shrink: pixels > FULL_PIXELS * 4 ? 4 : pixels > FULL_PIXELS ? 2 : 1,
    show: view.show,
    only: view.solo,
    small: true,
    stops: view.stops,
    channel: view.channel,
    view: view.viewOverride,
  }
}

/** Forgets the kept frames when anything that they show has changed. */
export function fresh(document: ShotDocument): void {
  const { show, ...rest } = order(0, document)
  const { scene: _scene, passes, frames: _frames, ...seen } = document
  const now = JSON.stringify([{ ...rest, document: undefined }, show, seen, passes.file?.blob])
  if (now !== key) {
    clear()
    key = now
  }
}

/**
 * Computes frames ahead of the one shown, nearest in playing order first, until all are there or the memory is full.
 */
async function gather(): Promise<void> {
  if (gathering) return
  gathering = true
  const view = useView()
  const shot = useShot()
  try {
    while (view.playing && shot.document) {
      const document = shot.document
      fresh(document)
      const { first, last } = playedRange()
      const length = last - first + 1
      let wanted: number | undefined
      for (let ahead = 0; ahead < length && wanted === undefined; ahead++) {
        const frame = first + ((((shot.frame - first + ahead * view.playing) % length) + length) % length)
        if (!frames.has(frame)) wanted = frame
      }
      if (wanted === undefined || bytes > BUDGET) break
      const mine = key
      const picture = await engine.picture(order(wanted, document))
      const bitmap = await createImageBitmap(new ImageData(picture.codes, picture.width, picture.height))
      fresh(shot.document)
      if (mine !== key) {
        bitmap.close()
        continue
      }
      frames.set(wanted, bitmap)
      bytes += picture.width * picture.height * 4
      view.keptFrames = [...frames.keys()]
    }
  } catch (error) {
    shot.message = (error as Error).message
    stop()
  }
  gathering = false
}

/** Plays forward (1) or backward (-1) from the frame at hand. */
export function play(direction: 1 | -1): void {
  const view = useView()
  const shot = useShot()
  if (!shot.document || shot.document.frames.first === shot.document.frames.last) return
  const mine = ++playId
  view.playing = direction
  view.dropped = 0
  const started = performance.now()
  const from = shot.frame
  let before = from
  let shownSteps = 0
  const tick = (): void => {
    if (mine !== playId || !shot.document) return
    const { first, last } = playedRange()
    const length = last - first + 1
    const steps = Math.floor(((performance.now() - started) / 1000) * perSecond(shot.document.rate))
    const place = from - first + steps * direction
    if (!view.loop && (place < 0 || place >= length)) {
      stop()
      return
    }
    const frame = first + (((place % length) + length) % length)
    if (frame !== before) {
      const bitmap = frames.get(frame)
      // Every frame that the clock passed without its picture is one dropped
      view.dropped += steps - shownSteps - (bitmap ? 1 : 0)
      shownSteps = steps
      before = frame
      shot.frame = frame
      if (bitmap) view.played = markRaw({ bitmap, frame })
    }
    requestAnimationFrame(tick)
  }
  void gather()
  requestAnimationFrame(tick)
}

export function stop(): void {
  const view = useView()
  playId++
  view.playing = 0
  view.played = null
}

/** One frame on or back; over the ends where playing goes round. */
export function step(by: number): void {
  const view = useView()
  const shot = useShot()
  stop()
  const { first, last } = playedRange()
  const length = last - first + 1
  const place = shot.frame - first + by
  shot.frame = view.loop
    ? first + (((place % length) + length) % length)
    : Math.min(last, Math.max(first, shot.frame + by))
}
