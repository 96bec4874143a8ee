// Motion blur of layers that are moved by their keys: closed forms of even motion.
import { describe, expect, it } from 'vitest'
import { newTreatment, type ShotDocument } from '../core/shot/document'
import { addRow } from '../core/shot/rows'
import { add, built, evaluator, engine, HEIGHT, pixel, shot, strip, useLayers, WIDTH } from './layeredShot'

useLayers()

/** So much a frame about frame 1. */
const keyed = (middle: number, step: number): { keys: unknown[] } => ({
  keys: [0, 2].map(frame => ({ frame, value: middle + (frame - 1) * step, ease: 'linear' })),
})
const blur = (values: Record<string, number> = {}) =>
  newTreatment('motion_blur', { shutter: 180, from: -90, ...values })
const moved = (document: ShotDocument, step: number): string =>
  add(document, 'picture', { ...strip(14, 26, 1, { distance: 8, x: keyed(20, step) }), id: 'strip' })
/** Share of the time that a strip from one column to another is over the middle of a column, going from by to by. */
const share = (column: number, from: number, to: number, by: number, until: number): number => {
  const within = (value: number): number => Math.min(until, Math.max(by, value))
  const middle = column + 0.5
  // It is there while from + d <= middle < to + d
  return (within(middle - from) - within(middle - to)) / (until - by)
}

describe('motion blur of layers', () => {
  it('a layer that is moved by keys is smeared over its way, the shutter open about the frame or from it on', async () => {
    for (const [from, by, until] of [
      [-90, -3, 3],
      [0, 0, 6],
      [-180, -6, 0],
    ] as const) {
      const document = shot()
      moved(document, 12)
      addRow(document.build.layers.strip!.treatments, blur({ from }))
      const out = await built(document)
      for (let x = 4; x < 36; x++) {
        const behind = x >= 10 && x < 20 ? 0.25 : 0.5
        const covers = share(x, 14, 26, by, until)
        expect(Math.abs(pixel(out, x)[0]! - (behind + (1 - behind) * covers))).toBeLessThan(0.06)
      }
    }
  })
  it('at the finish too, where all that is behind it stays sharp; turned off without a key', async () => {
    const document = shot()
    moved(document, 12)
    addRow(document.finish, blur())
    const finish = async (): Promise<Float32Array> => {
      const raster = await evaluator.evaluate({ document, frame: 1, shrink: 1, show: { kind: 'finish' } })
      return engine.kernels.floats(raster.pointer, WIDTH * HEIGHT * 4).slice()
    }
    const out = await finish()
    expect(pixel(out, 20)[0]).toBeCloseTo(1, 5)
    expect(pixel(out, 4)[0]).toBeCloseTo(0.5, 5)
    expect(pixel(out, 10)[0]).toBeCloseTo(0.25, 5)
    // Right of its edge: where it leads to, and what it leaves shows what is beside
    for (const x of [24, 25, 26, 27]) {
      const covers = share(x, 14, 26, -3, 3)
      expect(Math.abs(pixel(out, x)[0]! - (0.5 + 0.5 * covers))).toBeLessThan(0.06)
    }
    ;(document.build.layers.strip as { x: unknown }).x = 20
    const still = await finish()
    expect(pixel(still, 13)[0]).toBeCloseTo(0.25, 5)
    expect(pixel(still, 14)[0]).toBeCloseTo(1, 5)
  })
  it('a line of shape that is moved by keys is, with those before it, and a line without keys after a layer with', async () => {
    for (const way of ['line', 'both'] as const) {
      const document = shot()
      add(document, 'picture', {
        ...strip(14, 26, 1, { distance: 8, x: way === 'line' ? 20 : keyed(20, 6) }),
        id: 'strip',
      })
      const move = newTreatment('move', {})
      Object.assign(move.values, { x: way === 'line' ? keyed(0, 12) : 0 })
      if (way === 'both') Object.assign(move.values, { across: 2, down: 0.5 })
      const lines = document.build.layers.strip!.treatments
      addRow(lines, move)
      addRow(lines, blur())
      const out = await built(document)
      // Twice as large about the middle of the frame: twelve pixels become twenty-four, six a frame twelve
      const [left, right] = way === 'line' ? [14, 26] : [8, 32]
      for (let x = 3; x < 37; x++) {
        const behind = x >= 10 && x < 20 ? 0.25 : 0.5
        const covers = share(x, left, right, -3, 3)
        expect(Math.abs(pixel(out, x)[0]! - (behind + (1 - behind) * covers))).toBeLessThan(0.08)
      }
    }
  })
})
