// Which frames of a clip stand at a frame of the shot.
import type { ClipTiming } from '../shot/schema/picture'
import { valueAt } from './curve'
import { perSecond, type Rate } from './rate'

export const plainTiming = (count: number, start = 1): ClipTiming => ({
  start,
  from: 0,
  to: Math.max(0, count - 1),
  speed: 1,
  reverse: false,
  ends: 'hold',
  blend: false,
  conform: 'frames',
})

/** Frames of the clip counted from 0, and how much of the second is mixed in (0 to 1). */
export interface ClipFrames {
  frame: number
  next: number
  mix: number
}

/**
 * What of the clip stands at a frame of the shot; undefined where nothing does. Whole frames, or mixes of two
 * neighbours.
 */
export function clipAt(
  timing: ClipTiming,
  count: number,
  frame: number,
  clipRate: Rate,
  shotRate: Rate,
): ClipFrames | undefined {
  const from = Math.min(Math.max(0, timing.from), count - 1)
  const to = Math.min(Math.max(from, timing.to), count - 1)
  const length = to - from + 1
  const clamped = (value: number): number => Math.min(to, Math.max(from, value))
  if (timing.retime !== undefined) {
    // Rounded away from the noise of curves, so that a key on a whole frame is that frame
    const wanted = clamped(Math.round(valueAt(timing.retime, frame) * 1e6) / 1e6)
    const whole = Math.floor(wanted)
    return timing.blend
      ? { frame: whole, next: clamped(whole + 1), mix: wanted - whole }
      : { frame: whole, next: whole, mix: 0 }
  }
  const pace = timing.speed * (timing.conform === 'time' ? perSecond(clipRate) / perSecond(shotRate) : 1)
  const played = Math.round((frame - timing.start) * pace * 1e6) / 1e6
  const step = Math.floor(played)
  const part = played - step
  // Position in play order to place in the clip; undefined where there is nothing
  const place = (position: number): number | undefined => {
    let at = position
    if (at < 0 || at >= length) {
      if (timing.ends === 'nothing') return undefined
      if (timing.ends === 'hold') at = at < 0 ? 0 : length - 1
      else if (timing.ends === 'loop') at = ((at % length) + length) % length
      else if (length === 1) at = 0
      else {
        const period = 2 * length - 2
        at = ((at % period) + period) % period
        if (at >= length) at = period - at
      }
    }
    return timing.reverse ? to - at : from + at
  }
  const first = place(step)
  if (first === undefined) return undefined
  if (timing.frozen !== undefined) {
    const still = clamped(timing.frozen)
    return { frame: still, next: still, mix: 0 }
  }
  if (!timing.blend || part === 0) return { frame: first, next: first, mix: 0 }
  return { frame: first, next: place(step + 1) ?? first, mix: part }
}

/** How many frames of the shot the clip fills once; at least 1. */
export function lengthInShot(timing: ClipTiming, clipRate: Rate, shotRate: Rate): number {
  const pace = timing.speed * (timing.conform === 'time' ? perSecond(clipRate) / perSecond(shotRate) : 1)
  return Math.max(1, Math.ceil(Math.round(((timing.to - timing.from + 1) / pace) * 1e6) / 1e6))
}
