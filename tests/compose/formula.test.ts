// Machine code of rows of points: against double precision, against each point by itself, and as another tool reads it.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { fitsRow, rowOf } from '../../core/formula/compile'
import { inRow } from '../../core/formula/body'
import { formOf, point, type PointKernel } from '../../core/formula/point'
import { Term } from '../../core/formula/term'
import { signed, unsigned } from '../../core/formula/wasm'
import { step, type Step } from '../../core/engine/pool'
import { Cdl } from '../../core/treatment/cdl'
import { Gain } from '../../core/treatment/exposure'
import { TintTowards } from '../../core/treatment/distanceTint'
import { LevelsBent } from '../../core/treatment/levels'
import { Saturation } from '../../core/treatment/saturation'
import { Vignette } from '../../core/treatment/vignette'
import { startEngine, type Engine } from '../../host/engine'
import { raster, splat, type Raster } from '../../kernels/record'
import { MOST_FORMULAS } from '../../kernels/assembly/layout'
import { randomFrom } from './random'

let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())

const allocate = (box: Omit<Raster, 'pointer'>, bytes: number): Raster => ({
  ...box,
  pointer: engine.kernels.allocate((box.right - box.left) * (box.bottom - box.top) * bytes),
})
const floats = ({ pointer, left, right, top, bottom }: Raster, channels = 4): Float32Array =>
  engine.kernels.floats(pointer, (right - left) * (bottom - top) * channels)

/** What a point of one value makes of red, beside that of other numbers. */
function ofRed(
  values: readonly number[],
  formula: (red: Term, alpha: Term, value: Term) => Term,
  value = 0,
): Float32Array {
  const box = { left: 0, top: 0, right: values.length, bottom: 1 }
  const picture = allocate(box, 16)
  floats(picture).set(values.flatMap(red => [red, 0, 0, 0.5]))
  const kernel = point('Tried', { value: splat }, ({ colour, alpha, values }) =>
    colour.map((channel, which) => (which === 'red' ? formula(channel, alpha, values.value) : channel)),
  )
  engine.pool.run(kernel, box, { source: picture, out: picture, strength: 1, straight: 0, value })
  const out = floats(picture).filter((_, i) => i % 4 === 0)
  engine.kernels.dispose(picture.pointer)
  return out
}

const NUMBERS = [0, -0, 1, -1, 0.18, -0.4, 3.7, 60000, 1e-20, 2 ** 24 + 2, NaN, Infinity, -Infinity, 0.5, 1.5, 2.5, 7]
describe('each operation does what a 32-bit float does', () => {
  const f = Math.fround
  const second = f(0.7)
  const exact: [string, (red: Term, alpha: Term, value: Term) => Term, (x: number) => number][] = [
    ['plus', (x, _, v) => x.plus(v), x => x + second],
    ['minus', (x, _, v) => x.minus(v), x => x - second],
    ['times', (x, _, v) => x.times(v), x => x * second],
    ['over', (x, _, v) => x.over(v), x => x / second],
    ['over what is given', x => x.terms.constant(1).over(x), x => 1 / x],
    ['root', x => x.root(), x => Math.sqrt(x)],
    ['absolute', x => x.absolute(), x => Math.abs(x)],
    ['floor', x => x.floor(), x => Math.floor(x)],
    ['at most', (x, _, v) => x.atMost(v), x => (second < x ? second : x)],
    ['at least', (x, _, v) => x.atLeast(v), x => (x < second ? second : x)],
    ['is above', (x, _, v) => x.isAbove(v).choose(5, -5), x => (x > second ? 5 : -5)],
    ['is at least', x => x.isAtLeast(1).choose(5, -5), x => (x >= 1 ? 5 : -5)],
    ['is equal', x => x.isEqual(1).choose(5, -5), x => (x === 1 ? 5 : -5)],
    ['alpha', (x, alpha) => x.times(alpha), x => x / 2],
    [
      'constants of either sign of nothing',
      x => x.isEqual(0).choose(x.terms.constant(-0), x.terms.constant(0)),
      x => (x === 0 ? -0 : 0),
    ],
  ]
  it.each(exact)('%s', (_, formula, expected) => {
    const found = ofRed(NUMBERS, formula, 0.7)
    NUMBERS.forEach((x, i) => expect(found[i], `of ${x}`).toBe(f(expected(f(x)))))
  })
  it('powers, nearer than 8e-7; nothing of a base that is 0 or less', () => {
    const random = randomFrom(4)
    for (const exponent of [0.1, 1 / 2.4, 0.5, 1, 1.7, 2, 2.4, 4, 10, -1]) {
      const bases = Array.from({ length: 500 }, () => f(10 ** (random() * 8 - 4)))
      const found = ofRed([...bases, 0, -1], x => x.power(exponent))
      bases.forEach((base, i) => {
        const truth = base ** f(exponent)
        if (truth > 1e-37 && truth < 1e37)
          expect(Math.abs(found[i]! / truth - 1), `${base}^${exponent}`).toBeLessThan(8e-7)
      })
      expect(found.at(-2)).toBe(0)
      expect(found.at(-1)).toBe(0)
    }
  })
})

it('a pixel knows its middle, in areas of every width, and nothing beyond the area is written', () => {
  const Where = point('Where', {}, ({ colour, x, y }) =>
    colour.map((channel, which) => (which === 'red' ? x : which === 'green' ? y : channel)),
  )
  for (let width = 1; width <= 40; width++) {
    const box = { left: 3, top: 2, right: 50, bottom: 6 }
    const picture = allocate(box, 16)
    floats(picture).fill(-7)
    const area = { left: 5, top: 3, right: 5 + width, bottom: 5 }
    engine.pool.run(Where, area, { source: picture, out: picture, strength: 1, straight: 0 }, 1)
    const all = floats(picture)
    for (let y = box.top; y < box.bottom; y++)
      for (let x = box.left; x < box.right; x++) {
        const at = ((y - box.top) * (box.right - box.left) + x - box.left) * 4
        const inside = x >= area.left && x < area.right && y >= area.top && y < area.bottom
        expect([...all.subarray(at, at + 4)], `${x},${y} of ${width}`).toEqual(
          inside ? [x + 0.5, y + 0.5, -7, -7] : [-7, -7, -7, -7],
        )
      }
    engine.kernels.dispose(picture.pointer)
  }
})

it('other pictures of colour are read by channel, each where it stands, and at the end of a row', () => {
  const Woven = point('Woven', { first: raster('colour'), second: raster('colour') }, ({ colour, colours }) => {
    const { first, second } = colours
    return colour.map((channel, which) => channel.plus(first.colour[which].times(second.alpha)).minus(first.alpha))
  })
  const random = randomFrom(3)
  for (const width of [1, 4, 11, 13, 29]) {
    const box = { left: 2, top: 1, right: 2 + width, bottom: 4 }
    // Larger than what is worked on, and beginning elsewhere
    const wide = { left: -3, top: -2, right: 40, bottom: 9 }
    const [source, first, second] = [box, wide, wide].map(own => {
      const picture = allocate(own, 16)
      floats(picture).forEach((_, i, all) => (all[i] = Math.fround(random() * 2)))
      return picture
    }) as [Raster, Raster, Raster]
    const before = floats(source).slice()
    const [a, b] = [floats(first).slice(), floats(second).slice()]
    engine.pool.run(Woven, box, { source, out: source, first, second, strength: 1, straight: 0 })
    const after = floats(source)
    const f = Math.fround
    for (let y = box.top; y < box.bottom; y++)
      for (let x = box.left; x < box.right; x++) {
        const own = ((y - box.top) * width + x - box.left) * 4
        const other = ((y - wide.top) * (wide.right - wide.left) + x - wide.left) * 4
        for (let c = 0; c < 3; c++)
          expect(after[own + c]).toBe(f(f(before[own + c]! + f(a[other + c]! * b[other + 3]!)) - a[other + 3]!))
        expect(after[own + 3]).toBe(before[own + 3])
      }
    for (const { pointer } of [source, first, second]) engine.kernels.dispose(pointer)
  }
})

const WITH_SINGLE = point('Share', { share: raster('single') }, ({ colour, singles }) => colour.times(singles.share))
type Part = { kernel: PointKernel; given: Record<string, unknown> }
/** Points at random, each with strength, matte and division by alpha as chance has it. */
function randomParts(random: () => number, count: number, mattes: readonly Raster[]): Part[] {
  const kinds: [PointKernel, () => Record<string, unknown>][] = [
    [Gain, () => ({ gain: [0.5 + random(), 1, 2 * random()] })],
    [Saturation, () => ({ amount: 2 * random() })],
    [LevelsBent, () => ({ low: random() / 10, scale: 1.2, power: 0.5 + random(), outLow: 0.01, outSpan: 1.1 })],
    [Cdl, () => ({ slope: [1.1, 1, 0.9], offset: [0.01, -0.02, 0], power: [0.9, 1.3, 1], saturation: random() * 2 })],
    [
      Vignette,
      () => ({
        ...{ amount: random(), middleX: 20, middleY: 9, cosine: 0.96, sine: 0.28 },
        ...{ inverseX: 0.05, inverseY: 0.1, from: 0.3, slope: 0.8 },
      }),
    ],
    [TintTowards, () => ({ tint: [0.4, 0.5, 0.6], amount: random(), share: mattes[0] })],
    [WITH_SINGLE, () => ({ share: mattes[1] })],
  ]
  return Array.from({ length: count }, () => {
    const [kernel, given] = kinds[Math.floor(random() * kinds.length)]!
    return {
      kernel,
      given: {
        ...given(),
        strength: random() < 0.6 ? 1 : random(),
        straight: random() < 0.4 ? 1 : 0,
        matte: random() < 0.3 ? mattes[Math.floor(random() * mattes.length)] : undefined,
      },
    }
  })
}
const picturesOf = (parts: readonly Part[]): number =>
  parts.reduce((sum, { given }) => sum + (given.matte ? 1 : 0) + (given.share ? 1 : 0), 1)
const rowStep = (parts: readonly Part[], area: Step['area'], source: Raster, out: Raster): Step => ({
  kernel: rowOf(parts.map(({ kernel, given }) => formOf(kernel, given, !!given.matte))),
  area,
  given: {
    source,
    out,
    ...Object.fromEntries(
      parts.flatMap(({ given }, place) => Object.entries(given).map(([name, value]) => [inRow(name, place), value])),
    ),
  },
})

it('a row is its points one after another, to the bit: under strengths, mattes and partial alpha', () => {
  const random = randomFrom(12)
  const box = { left: 0, top: 0, right: 37, bottom: 19 }
  const pixels = box.right * box.bottom
  const mattes = [0, 1, 2].map(() => {
    const matte = allocate(box, 4)
    floats(matte, 1).forEach((_, i, all) => (all[i] = random() < 0.3 ? 0 : random() < 0.4 ? 1 : random()))
    return matte
  })
  const source = allocate(box, 16)
  const [one, other] = [allocate(box, 16), allocate(box, 16)]
  let ofNothing = 0
  for (let round = 0; round < 150; round++) {
    const data = floats(source)
    for (let i = 0; i < pixels; i++) {
      const alpha = random() < 0.5 ? 1 : random() < 0.3 ? 0 : random()
      data.set([random() * alpha * 2, random() * alpha, (random() - 0.2) * alpha, alpha], i * 4)
    }
    // Whole stretches of covered pixels go another way
    if (round % 2) for (let i = 0; i < pixels; i++) if (i % 37 < 30) data[i * 4 + 3] = 1
    if (round % 5 === 0) data[4 * 40] = NaN
    const parts = randomParts(random, 1 + Math.floor(random() * 9), mattes)
    while (!fitsRow(parts.length, picturesOf(parts))) parts.pop()
    engine.pool.runProgram({ steps: [rowStep(parts, box, source, one)], area: box, rows: 4 })
    parts.forEach(({ kernel, given }, i) =>
      engine.pool.run(kernel, box, { ...given, source: i ? other : source, out: other } as never),
    )
    const [a, b] = [floats(one), floats(other)].map(all => new Uint32Array(all.slice().buffer)) as [
      Uint32Array,
      Uint32Array,
    ]
    expect(
      a.findIndex((bits, i) => bits !== b[i]),
      parts.map(({ kernel }) => kernel.name).join(' '),
    ).toBe(-1)
    // Alpha stays, and where a matte holds nothing so does all else
    for (let i = 3; i < pixels * 4; i += 4) expect(floats(one)[i]).toBe(data[i])
    if (parts.length === 1 && parts[0]!.given.matte) {
      const matte = floats(parts[0]!.given.matte as Raster, 1)
      for (let i = 0; i < pixels * 4; i++) if (matte[i >> 2] === 0) expect(floats(one)[i], `${i}`).toBe(data[i])
      ofNothing++
    }
  }
  expect(ofNothing).toBeGreaterThan(0)
  for (const { pointer } of [source, one, other, ...mattes]) engine.kernels.dispose(pointer)
})

it('more rows than there is room for at a time are all done, on every thread', () => {
  const box = { left: 0, top: 0, right: 30, bottom: 64 }
  const [source, out] = [allocate(box, 16), allocate(box, 16)]
  floats(source).fill(1)
  const before = engine.kernels.used
  for (let round = 0; round < MOST_FORMULAS + 40; round++) {
    const Own = point(`Own${round}`, {}, ({ colour }) => colour.times(round + 1))
    engine.pool.run(Own, box, { source, out, strength: 1, straight: 0 }, 2)
    const all = floats(out)
    for (let i = 0; i < all.length; i += 4) if (all[i] !== round + 1) expect.fail(`${all[i]} for ${round + 1}`)
  }
  expect(engine.kernels.used - before).toBeLessThan(2 ** 21)
  // Several in one program too
  const steps = Array.from({ length: 40 }, (_, round) =>
    step(
      point(`More${round}`, {}, ({ colour }) => colour.plus(1)),
      box,
      { source: round ? out : source, out, strength: 1, straight: 0 },
    ),
  )
  engine.pool.runProgram({ steps, area: box, rows: 2 })
  expect(floats(out)[0]).toBe(41)
  for (const { pointer } of [source, out]) engine.kernels.dispose(pointer)
})

it('binaryen reads and accepts the code of every treatment and of long rows', async () => {
  const { default: binaryen } = await import('binaryen')
  const random = randomFrom(3)
  const nowhere = { left: 0, top: 0, right: 1, bottom: 1, pointer: 64 }
  for (const count of [1, 1, 1, 1, 1, 1, 1, 1, 3, 8, 24]) {
    const parts = randomParts(random, count, [nowhere, nowhere, nowhere])
    // The long ones without their pictures, of which there may not be so many
    if (count > 3) for (const { given } of parts) given.matte = undefined
    while (!fitsRow(parts.length, picturesOf(parts)))
      parts.splice(
        parts.findIndex(({ given }) => given.share),
        1,
      )
    const { kernel } = rowStep(parts, nowhere, nowhere, nowhere)
    const module = binaryen.readBinaryWithFeatures((kernel as { code?: Uint8Array }).code!, binaryen.Features.All)
    expect(module.validate(), kernel.name).toBe(1)
    expect(module.getNumExports()).toBe(1)
    module.dispose()
  }
})
it('numbers stand as LEB128 has them (worked examples of DWARF 4, figures 22 and 23)', () => {
  expect([2, 127, 128, 129, 12857].map(unsigned)).toEqual([[2], [127], [128, 1], [129, 1], [0xb9, 0x64]])
  expect([2, -2, 127, -127, 128, -128, 129, -129].map(signed)).toEqual([
    [2],
    [0x7e],
    [0xff, 0],
    [0x81, 0x7f],
    [0x80, 1],
    [0x80, 0x7f],
    [0x81, 1],
    [0xff, 0x7e],
  ])
})
it('a row has an end', () => {
  expect(fitsRow(24, 9)).toBe(true)
  expect(fitsRow(25, 1)).toBe(false)
  expect(fitsRow(1, 10)).toBe(false)
  expect(() => rowOf(Array.from({ length: 25 }, () => formOf(Gain, { strength: 1 }, false)))).toThrow('longer')
})
