// A figure toned to a place of known blacks, whites, colour and strength of colour, through the treatment that it becomes.
import { afterAll, expect, it } from 'vitest'
import { kernelModule } from '../../host/engine'
import { treat } from '../../tests/compose/treat'
import { oklabOf, rgbOfOklab } from '../colour/oklab'
import { Kernels } from '../engine/memory'
import { Pool } from '../engine/pool'
import { likenessOf } from './likeness'
import { toned } from './toned'

const pool = new Pool(new Kernels(kernelModule()))
afterAll(() => pool.stop())
type Lab = [light: number, a: number, b: number]
/** 400 pixels of evenly spread lightness, their colours about a mean, so far to both sides. */
const made = (black: number, white: number, [, a, b]: Lab, spread: number): Float32Array =>
  Float32Array.from(
    Array.from({ length: 400 }, (_, i) => {
      const way = i % 2 ? spread : -spread
      return [...rgbOfOklab([black + ((white - black) * i) / 399, a + way, b - way]), 1]
    }).flat(),
  )
const labs = (pixels: Float32Array): Lab[] =>
  Array.from({ length: pixels.length / 4 }, (_, i) => oklabOf([pixels[i * 4]!, pixels[i * 4 + 1]!, pixels[i * 4 + 2]!]))
const mean = (list: readonly number[]): number => list.reduce((sum, value) => sum + value, 0) / list.length

it('has its blacks as there, its whites no brighter, less colour, and half of the cast of the place', async () => {
  const own = made(0.1, 0.95, [0, 0.01, 0.02], 0.06)
  const place = made(0.22, 0.7, [0, -0.005, -0.03], 0.02)
  const values = toned(likenessOf(own)!, likenessOf(place)!)
  const after = labs(await treat(pool, 'match', values as never, 400, 1, own))
  const lights = after.map(([light]) => light)
  expect(Math.min(...lights)).toBeCloseTo(0.22, 2)
  expect(Math.max(...lights)).toBeCloseTo(0.7, 2)
  // Its own mean drawn together by the least share there is, and half of the place's laid on
  expect(mean(after.map(([, a]) => a))).toBeCloseTo(0.01 * 0.5 - 0.005 / 2, 3)
  expect(mean(after.map(([, , b]) => b))).toBeCloseTo(0.02 * 0.5 - 0.03 / 2, 3)
  const spread = Math.sqrt(mean(after.map(([, a]) => (a - mean(after.map(one => one[1]))) ** 2)))
  expect(spread).toBeCloseTo(0.03, 3)
})

it('a dark coat stays dark in a bright place, and one flat colour is no fault', async () => {
  const coat = made(0.12, 0.35, [0, 0, 0], 0.01)
  const place = made(0.12, 1, [0, 0, 0], 0.05)
  const after = labs(await treat(pool, 'match', toned(likenessOf(coat)!, likenessOf(place)!) as never, 400, 1, coat))
  expect(Math.max(...after.map(([light]) => light))).toBeCloseTo(0.35, 2)
  const flat = made(0.4, 0.4, [0, 0, 0], 0)
  for (const pixels of await treat(pool, 'match', toned(likenessOf(flat)!, likenessOf(place)!) as never, 400, 1, flat))
    expect(Number.isFinite(pixels)).toBe(true)
})
