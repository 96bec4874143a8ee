// Slips: lines of mattes joined and refined, kept under names and used in each other.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { matteNode, type MatteBy } from '../core/compose/mattes'
import { boxOf } from '../core/engine/box'
import type { Picture } from '../core/plan/picture'
import { kernelNode, type Node } from '../core/plan/node'
import { Runner } from '../core/plan/runner'
import { sized } from '../core/plan/size'
import { newDocument, newTreatment, type MatteTerm, type Slip } from '../core/shot/document'
import { addRow } from '../core/shot/rows'
import { addTerm, keptTerm, namesTerm, slipOf, usesOf, valuedTerm, wordsOf } from '../core/shot/slip'
import { startEngine, type Engine } from '../host/engine'
import { GrowMatte } from '../kernels/records'
import { documentFaults } from '../shared/validate'
import { given } from './compose/treat'
import { pythonOf } from './python'

let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())

const [WIDTH, HEIGHT] = [48, 32]
/** A ramp of light from left to right. */
const ramp = Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH) / WIDTH)
const picture = (): Picture => {
  const depth = given(ramp, WIDTH, 'single')
  return {
    colour: given(
      ramp.flatMap(value => [value, value, value, 1]),
      WIDTH,
    ),
    depth: () => depth,
    byDepth: say => say(depth),
  }
}
const BY: MatteBy = {
  frame: 1,
  size: sized({ width: WIDTH, height: HEIGHT, left: 0, top: 0 }, 1),
  passes: undefined,
  relative: false,
  mattes: {},
}
async function held(slip: Slip, by: Partial<MatteBy> = {}): Promise<Float32Array | 'everywhere' | undefined> {
  const node = matteNode(slip, picture(), { ...BY, ...by })
  if (!node || node === 'everywhere') return node
  const runner = new Runner(engine.pool, 2 ** 26)
  const { pointer } = await runner.run(node, boxOf(WIDTH, HEIGHT))
  const out = engine.kernels.floats(pointer, WIDTH * HEIGHT).slice()
  runner.clear()
  return out
}
const above = (low: number, soft = 0.25): MatteTerm => ({
  ...valuedTerm('brightness'),
  values: { low, high: 1000, soft },
})
const row = async (slip: Slip, by?: Partial<MatteBy>): Promise<number[]> => [
  ...((await held(slip, by)) as Float32Array).slice(0, WIDTH),
]
const near = (found: readonly number[], expected: readonly number[], tolerance = 1e-6): void =>
  expected.forEach((value, i) => expect(Math.abs(found[i]! - value), `${i}`).toBeLessThanOrEqual(tolerance))

describe('lines', () => {
  it('are joined from the first on, each as its word says, also where they are soft', async () => {
    const [a, b] = [await row(slipOf(above(0.5))), await row(slipOf(above(0.75)))]
    expect(a.some(value => value > 0.2 && value < 0.8)).toBe(true)
    const both = async (join: MatteTerm['join']): Promise<number[]> => row(slipOf(above(0.5), { ...above(0.75), join }))
    near(
      await both('also'),
      a.map((x, i) => x + b[i]! - x * b[i]!),
    )
    near(
      await both('not'),
      a.map((x, i) => x * (1 - b[i]!)),
    )
    near(
      await both('only'),
      a.map((x, i) => x * b[i]!),
    )
    near(
      await both('apart'),
      a.map((x, i) => x + b[i]! - 2 * x * b[i]!),
    )
    // A third goes on from both; the order counts
    near(
      await row(slipOf(above(0.5), { ...above(0.75), join: 'not' }, { ...above(0.9), join: 'also' })),
      await Promise.all([both('not'), row(slipOf(above(0.9)))]).then(([x, y]) =>
        x.map((v, i) => v + y[i]! - v * y[i]!),
      ),
    )
  })
  it('that are off count for nothing; a slip of none holds everything', async () => {
    const slip = slipOf(above(0.5), { ...above(0.75), join: 'only', on: false })
    expect(await row(slip)).toEqual(await row(slipOf(above(0.5))))
    for (const term of Object.values(slip.terms)) term.on = false
    expect(await held(slip)).toBe('everywhere')
    expect(await held(slipOf())).toBe('everywhere')
    expect(wordsOf(slip, {})).toBe('everything')
  })
  it('one that begins with but not is all else; one that cannot be made makes no matte', async () => {
    const plain = await row(slipOf(above(0.5)))
    near(
      await row(slipOf({ ...above(0.5), join: 'not' })),
      plain.map(value => 1 - value),
    )
    expect(await held(slipOf(above(0.5), namesTerm(['bell'])))).toBeUndefined()
  })
})

describe('refined', () => {
  it('softened is OpenCV’s Gaussian blur of the matte; clipped cuts and bends it; in their order', async () => {
    const slip = slipOf(above(0.5, 0))
    const plain = (await held(slip)) as Float32Array
    addRow(slip.refine, { id: 's', kind: 'soften', on: true, values: { radius: 3 } })
    const soft = (await held(slip)) as Float32Array
    const blurred = pythonOf<number[]>(
      `
import json, sys, numpy as np, cv2
a = np.array(json.load(sys.stdin), np.float64).reshape(${HEIGHT}, ${WIDTH})
print(json.dumps(cv2.GaussianBlur(a, (37, 37), 3, borderType=cv2.BORDER_REFLECT).ravel().tolist()))`,
      [...plain],
    )
    near([...soft], blurred, 3e-4)
    addRow(slip.refine, { id: 'c', kind: 'clip', on: true, values: { black: 0.2, white: 0.7, gamma: 2 } })
    const bent = [...soft].map(value => Math.min(1, Math.max(0, (value - 0.2) / 0.5)) ** 0.5)
    near([...((await held(slip)) as Float32Array)], bent, 3e-5)
    slip.invert = true
    near(
      [...((await held(slip)) as Float32Array)],
      bent.map(value => 1 - value),
      3e-5,
    )
  })
  it.each([1, 2.5, 6, 0.4])('grown by %s pixels an edge moves as far, and shrunk as far back', async pixels => {
    // An edge in the middle of a pixel: half of it is in
    const edge = Array.from({ length: WIDTH }, (_, x) => (x < 20 ? 0 : x === 20 ? 0.5 : 1))
    const slip = slipOf({
      ...valuedTerm('channel'),
      values: { channel: 'red', of: 'picture', low: 1, high: 2, soft: 0 },
    })
    const of = async (by: number): Promise<number[]> => {
      slip.refine = {}
      addRow(slip.refine, { id: 'g', kind: 'grow', on: true, values: { pixels: by } })
      const depth = given(ramp, WIDTH, 'single')
      const colour = given(
        Array.from({ length: HEIGHT }, () => edge.flatMap(value => [value > 0.5 ? 1 : 0, 0, 0, 1])).flat(),
        WIDTH,
      )
      const node = matteNode(slip, { colour, depth: () => depth, byDepth: say => say(depth) }, BY) as Node
      const runner = new Runner(engine.pool, 2 ** 26)
      const { pointer } = await runner.run(node, boxOf(WIDTH, HEIGHT))
      const out = [...engine.kernels.floats(pointer, WIDTH * HEIGHT).subarray(WIDTH * 16, WIDTH * 17)]
      runner.clear()
      return out
    }
    const sum = (values: readonly number[]): number => values.reduce((total, value) => total + value, 0)
    const plain = sum(edge.map(value => (value > 0.5 ? 1 : 0)))
    expect(sum(await of(pixels)) - plain).toBeCloseTo(pixels, 5)
    expect(plain - sum(await of(-pixels))).toBeCloseTo(pixels, 5)
  })
  it('grown is round: a dot becomes a disc of that area', async () => {
    const node = kernelNode(
      GrowMatte,
      {
        source: given(
          ramp.map((_, i) => (i === 16 * WIDTH + 24 ? 1 : 0)),
          WIDTH,
          'single',
        ),
        radius: 9.5,
        shrink: 0,
      },
      { window: boxOf(WIDTH, HEIGHT), reach: 11 },
    )
    const runner = new Runner(engine.pool, 2 ** 26)
    const { pointer } = await runner.run(node, boxOf(WIDTH, HEIGHT))
    const area = engine.kernels.floats(pointer, WIDTH * HEIGHT).reduce((sum, value) => sum + value, 0)
    runner.clear()
    // A dot is half a pixel round itself
    expect(Math.abs(area / (Math.PI * 10 ** 2) - 1)).toBeLessThan(0.01)
  })
  it('lengths are pixels of the frame: softened as far at half size', async () => {
    const slip = slipOf(above(0.5, 0))
    addRow(slip.refine, { id: 's', kind: 'soften', on: true, values: { radius: 6 } })
    const half = sized({ width: WIDTH * 2, height: HEIGHT * 2, left: 0, top: 0 }, 2)
    const other = slipOf(above(0.5, 0))
    addRow(other.refine, { id: 's', kind: 'soften', on: true, values: { radius: 3 } })
    expect(await row(slip, { size: half })).toEqual(await row(other))
  })
})

describe('kept under a name', () => {
  const mattes = {
    light: { id: 'light', order: 'a0', name: 'the light', slip: slipOf(above(0.5)) },
    round: { id: 'round', order: 'a1', name: 'round', slip: slipOf(keptTerm('round')) },
    both: { id: 'both', order: 'a2', name: 'both', slip: slipOf(keptTerm('light'), { ...above(0.75), join: 'not' }) },
  }
  it('it is what it was made of, also within another, turned over too', async () => {
    expect(await row(slipOf(keptTerm('light')), { mattes })).toEqual(await row(slipOf(above(0.5))))
    expect(await row(slipOf(keptTerm('both')), { mattes })).toEqual(
      await row(slipOf(above(0.5), { ...above(0.75), join: 'not' })),
    )
    near(
      await row(slipOf({ ...keptTerm('light'), invert: true }), { mattes }),
      (await row(slipOf(above(0.5)))).map(value => 1 - value),
    )
  })
  it('one that stands in itself, or is gone, makes nothing and breaks nothing', async () => {
    expect(await held(slipOf(keptTerm('round')), { mattes })).toBeUndefined()
    expect(await held(slipOf(keptTerm('gone')), { mattes })).toBeUndefined()
    expect(wordsOf(slipOf(keptTerm('gone')), mattes)).toBe('a matte that is gone')
  })
  it('its uses are known, its words are said', () => {
    const document = newDocument()
    document.mattes = mattes
    addRow(document.finish, { ...newTreatment('exposure', { stops: 1 }, 'e'), matte: slipOf(keptTerm('light')) })
    const slip = slipOf(namesTerm(['bell'], 'through'), { ...keptTerm('light'), join: 'not' })
    addTerm(slip, { ...valuedTerm('depth'), join: 'only', invert: true })
    addRow(document.finish, { ...newTreatment('tint', {}, 't'), matte: slip })
    expect(documentFaults(document)).toEqual([])
    expect(usesOf(document, 'light').map(({ label }) => label)).toEqual([
      'Exposure of the finish',
      'Tint of the finish',
      'both',
    ])
    expect(wordsOf(slip, mattes)).toBe('bell through glass but not the light only where all but depth')
    expect(wordsOf({ ...slip, invert: true }, mattes)).toMatch(/^all but \(bell/)
  })
})
