// Steady over time, against its definition in double precision: of a key of brightness over frames with grain, with
// something that moves through.
import { expect, it } from 'vitest'
import { addRow } from '../core/shot/rows'
import { identifier } from '../core/shot/document'
import { slipOf } from '../core/shot/slip'
import { firstValues } from '../core/declare/values'
import { refinerOf } from '../core/matte/refine/registry'
import { near, ramp } from './compose/ramps'
import { randomFrom } from './compose/random'
import { COUNT, held, term, useMattes, WIDTH } from './heldMatte'

useMattes()

const random = randomFrom(12)
/** Grey at two levels with grain; a bright bar stands in other columns at each frame. */
const frames = new Map<number, number[]>()
function pixelsAt(frame: number): number[] {
  const made =
    frames.get(frame) ??
    Array.from({ length: COUNT }, (_, i) => {
      const x = i % WIDTH
      const bar = x >= 4 + frame * 5 && x < 9 + frame * 5
      const value = Math.fround(bar ? 2.5 : (x < WIDTH / 2 ? 0.3 : 0.5) * (0.94 + 0.12 * random()))
      return [value, value, value, 1]
    }).flat()
  frames.set(frame, made)
  return made
}
const KEY = { low: 0.55, high: 8, soft: 0.15 }
const share = (value: number): number => ramp(value, KEY.low, KEY.high, KEY.soft)
const steadySlip = (values: { frames: number; alike?: number }): ReturnType<typeof slipOf> => {
  const slip = slipOf(term('brightness', KEY))
  const kind = refinerOf('steady')
  addRow(slip.refine, { id: identifier(), kind: kind.id, on: true, values: { ...firstValues(kind.values), ...values } })
  return slip
}
const seen = (value: number): number => value ** (1 / 2.4)
const grey = (frame: number, i: number): number => pixelsAt(frame)[i * 4]!

it.each([
  [1, 0.12],
  [3, 0.3],
])('is the mean of %i frames to each side where the picture is alike within %f', async (count, alike) => {
  const found = await held(steadySlip({ frames: count, alike }), { pixels: pixelsAt(1), there: pixelsAt })
  const expected = Array.from({ length: COUNT }, (_, i) => {
    let [sum, all] = [0, 0]
    for (let frame = 1 - count; frame <= 1 + count; frame++) {
      const apart = Math.abs(seen(grey(frame, i)) - seen(grey(1, i))) / alike
      const weight = Math.max(0, 1 - apart ** 2) ** 2
      sum += weight * share(grey(frame, i))
      all += weight
    }
    return sum / all
  })
  near(found, expected, 2e-5)
})
it('flickers less where nothing moves, and what moves leaves no trail', async () => {
  const before = await held(slipOf(term('brightness', KEY)), { pixels: pixelsAt(1), there: pixelsAt })
  const after = await held(steadySlip({ frames: 3 }), { pixels: pixelsAt(1), there: pixelsAt })
  // The bar of this frame stands in columns 9 to 13: it is held wholly, and only there
  const spread = (of: number[], inside: (x: number) => boolean): number => {
    const some = of.filter((_, i) => inside(i % WIDTH))
    const mean = some.reduce((sum, value) => sum + value, 0) / some.length
    return Math.sqrt(some.reduce((sum, value) => sum + (value - mean) ** 2, 0) / some.length)
  }
  const still = (x: number): boolean => x >= 30
  expect(spread(before, still)).toBeGreaterThan(0.02)
  expect(spread(after, still)).toBeLessThan(spread(before, still) * 0.55)
  after.forEach((value, i) => {
    const x = i % WIDTH
    if (x >= 9 && x < 14) expect(value).toBeCloseTo(1, 5)
    else if (x < 18) expect(value).toBeLessThan(0.75)
  })
})
it('of no frames, or where there are none, it is what it was', async () => {
  const plain = await held(slipOf(term('brightness', KEY)), { pixels: pixelsAt(1), there: pixelsAt })
  expect(await held(steadySlip({ frames: 0 }), { pixels: pixelsAt(1), there: pixelsAt })).toEqual(plain)
})
