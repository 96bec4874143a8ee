// Retiming against closed forms.
import { describe, expect, it } from 'vitest'
import { clipAt, lengthInShot, plainTiming } from './retime'
import type { ClipTiming } from '../shot/schema/picture'
import { rateOf } from './rate'

const R = rateOf(24)
const at = (timing: Partial<ClipTiming>, frames: number[], count = 10, clip = R, shot = R): (number | undefined)[] =>
  frames.map(frame => clipAt({ ...plainTiming(count), ...timing }, count, frame, clip, shot)?.frame)
const mixed = (timing: Partial<ClipTiming>, frame: number, count = 10): number | undefined => {
  const found = clipAt({ ...plainTiming(count), blend: true, ...timing }, count, frame, R, R)
  return found && found.frame * (1 - found.mix) + found.next * found.mix
}

describe('a clip', () => {
  it('stands frame for frame from its start', () => {
    expect(at({ start: 5 }, [5, 6, 14])).toEqual([0, 1, 9])
  })
  it('before and after: nothing, held, again, to and fro', () => {
    const frames = [-2, 0, 1, 10, 11, 12, 21]
    expect(at({ ends: 'nothing' }, frames)).toEqual([undefined, undefined, 0, 9, undefined, undefined, undefined])
    expect(at({ ends: 'hold' }, frames)).toEqual([0, 0, 0, 9, 9, 9, 9])
    expect(at({ ends: 'loop' }, frames)).toEqual([7, 9, 0, 9, 0, 1, 0])
    expect(at({ ends: 'mirror' }, frames)).toEqual([3, 1, 0, 9, 8, 7, 2])
    expect(at({ ends: 'mirror' }, frames, 1)).toEqual([0, 0, 0, 0, 0, 0, 0])
  })
  it('trimmed uses its part only', () => {
    expect(at({ from: 3, to: 5, ends: 'loop' }, [1, 2, 3, 4, 5])).toEqual([3, 4, 5, 3, 4])
  })
  it('backwards', () => {
    expect(at({ reverse: true, from: 2, to: 6 }, [1, 2, 5, 9])).toEqual([6, 5, 2, 2])
  })
  it('half as fast holds each frame twice, or mixes; twice as fast leaves out every other', () => {
    expect(at({ speed: 0.5 }, [1, 2, 3, 4, 5])).toEqual([0, 0, 1, 1, 2])
    expect([1, 2, 3, 4].map(frame => mixed({ speed: 0.5 }, frame))).toEqual([0, 0.5, 1, 1.5])
    expect(at({ speed: 2 }, [1, 2, 3])).toEqual([0, 2, 4])
  })
  it('at any speed is at start + (frame - start) x speed when mixed', () => {
    for (const speed of [0.1, 0.3, 1 / 3, 0.77, 1.4])
      for (let frame = 1; (frame - 1) * speed < 9; frame++)
        expect(mixed({ speed }, frame)!).toBeCloseTo((frame - 1) * speed, 5)
  })
  it('mixes over the seam of a loop, and not past its end', () => {
    expect(clipAt({ ...plainTiming(4), blend: true, speed: 0.5, ends: 'loop' }, 4, 8, R, R)).toEqual({
      frame: 3,
      next: 0,
      mix: 0.5,
    })
    expect(clipAt({ ...plainTiming(4), blend: true, speed: 0.5, ends: 'nothing' }, 4, 8, R, R)).toEqual({
      frame: 3,
      next: 3,
      mix: 0.5,
    })
  })
  it('of another rate keeps to the clock when asked to: 25 in 24 skips a frame each second', () => {
    const clip = rateOf(25)
    const frames = Array.from({ length: 25 }, (_, i) => i + 1)
    const shown = at({ conform: 'time' }, frames, 100, clip)
    shown.forEach((frame, i) => expect(frame).toBe(Math.floor((i * 25) / 24 + 1e-9)))
    expect(shown[24]).toBe(25)
    expect(lengthInShot({ ...plainTiming(100), conform: 'time' }, clip, R)).toBe(96)
    expect(lengthInShot({ ...plainTiming(100), speed: 0.5 }, clip, R)).toBe(200)
  })
  it('by a curve: an ease between two keys, held beyond, whole on its keys', () => {
    const retime = {
      keys: [
        { frame: 1, value: 0, ease: 'linear' as const },
        { frame: 5, value: 8, ease: 'linear' as const },
      ],
    }
    expect([1, 2, 3, 5, 9].map(frame => mixed({ retime }, frame))).toEqual([0, 2, 4, 8, 8])
    expect(mixed({ retime: 3.25 }, 1)).toBeCloseTo(3.25, 6)
    expect(mixed({ retime: 99 }, 1)).toBe(9)
  })
  it('frozen shows one frame for as long as it lasts', () => {
    expect(at({ frozen: 4, ends: 'nothing' }, [0, 1, 7, 10, 11])).toEqual([undefined, 4, 4, 4, undefined])
  })
})
