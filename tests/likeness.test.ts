// A picture made like another, against culori's OKLab: tones at each share, means and spreads.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { converter } from 'culori'
import { likened, likenessOf, TONE_SHARES } from '../core/measure/likeness'
import { oklabOf } from '../core/colour/oklab'
import { doesNothing } from '../core/compose/treatments'
import { firstValues } from '../core/declare/values'
import { treatmentOf } from '../core/treatment/registry'
import { startEngine, type Engine } from '../host/engine'
import { randomFrom } from './compose/random'
import { treat } from './compose/treat'

let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())

const match = treatmentOf('match')
const random = randomFrom(12)
const [WIDTH, HEIGHT] = [120, 80]
const picture = (make: () => [number, number, number]): Float32Array =>
  Float32Array.from(Array.from({ length: WIDTH * HEIGHT }, () => [...make(), 1]).flat())
const WARM = picture(() => {
  const light = random() ** 2 * 3
  return [light * (0.8 + 0.4 * random()), light * (0.5 + 0.2 * random()), light * 0.3 * random()]
})
const COOL = picture(() => {
  const light = 0.02 + random() ** 3 * 1.2
  return [light * 0.4 * random(), light * (0.5 + 0.2 * random()), light * (0.7 + 0.5 * random())]
})

it('OKLab is culori’s', () => {
  const oklab = converter('oklab')
  for (const [r, g, b] of [
    [1, 0.2, 0.05],
    [0.02, 0.4, 3],
    [0, 0, 0],
  ] as const) {
    const { l, a, b: yellow } = oklab({ mode: 'lrgb', r, g, b })!
    oklabOf([r, g, b]).forEach((value, i) => expect(value).toBeCloseTo([l, a, yellow][i]!, 5))
  }
})
it('the one has the other’s tones, mean colour and spread after it', async () => {
  const [own, other] = [likenessOf(WARM)!, likenessOf(COOL)!]
  expect(Math.abs(own.a - other.a) + Math.abs(own.b - other.b)).toBeGreaterThan(0.1)
  const out = await treat(engine.pool, 'match', likened(own, other), WIDTH, HEIGHT, WARM)
  const made = likenessOf(out)!
  made.tones.forEach((tone, i) => expect(Math.abs(tone - other.tones[i]!), `tone ${TONE_SHARES[i]}`).toBeLessThan(0.01))
  for (const name of ['a', 'b', 'spreadA', 'spreadB'] as const)
    expect(Math.abs(made[name] - other[name]), name).toBeLessThan(0.004)
  // Measured by an outside hand: the mean of culori's a and b
  const oklab = converter('oklab')
  let [a, b] = [0, 0]
  for (let i = 0; i < out.length; i += 4) {
    const found = oklab({ mode: 'lrgb', r: out[i]!, g: out[i + 1]!, b: out[i + 2]! })!
    a += found.a / (WIDTH * HEIGHT)
    b += found.b / (WIDTH * HEIGHT)
  }
  expect(Math.abs(a - other.a)).toBeLessThan(0.004)
  expect(Math.abs(b - other.b)).toBeLessThan(0.004)
})
it('tones alone are something to do, and none that is as it was', () => {
  const values = firstValues(match.values)
  expect(
    doesNothing(match, {
      ...values,
      tones: [
        [0.2, 0.3],
        [0.9, 0.9],
      ],
    }),
  ).toBe(false)
  expect(
    doesNothing(match, {
      ...values,
      tones: [
        [0.2, 0.2],
        [0.9, 0.9],
      ],
    }),
  ).toBe(true)
})
it('like itself it stays as it is; half covered counts by its colour; nothing covered, of one colour, no numbers', async () => {
  const own = likenessOf(WARM)!
  const same = await treat(engine.pool, 'match', likened(own, own), WIDTH, HEIGHT, WARM)
  same.forEach((value, i) => expect(Math.abs(value - WARM[i]!)).toBeLessThan(2e-4 * (1 + WARM[i]!)))
  const half = likenessOf(WARM.map((value, i) => (i % 4 === 3 ? 0.6 : value * 0.6)))!
  expect(half.a).toBeCloseTo(own.a, 5)
  expect(likenessOf(new Float32Array(40))).toBeUndefined()
  const flat = likenessOf(picture(() => [0.2, 0.2, 0.2]))!
  const values = likened(flat, own)
  expect([values.spread_a, values.spread_b]).toEqual([1, 1])
  expect(values.tones).toHaveLength(2)
  expect(likenessOf(picture(() => [NaN, 0.2, 0.2]))).toBeUndefined()
})
