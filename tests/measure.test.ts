// What the instruments count, against numpy and the formulas of ITU-R BT.709-6.
import { expect, it } from 'vitest'
import {
  FIRST_STOP,
  measureLight,
  STOP_STEPS,
  STOPS,
  VECTOR_STEPS,
  WAVE_COLUMNS,
  WAVE_ROWS,
} from '../core/measure/light'
import { randomFrom } from './compose/random'
import { pythonOf } from './python'

const random = randomFrom(77)
const [WIDTH, HEIGHT] = [321, 60]
const pixels = Float32Array.from({ length: WIDTH * HEIGHT * 4 }, (_, i) =>
  i % 4 === 3 ? 1 : 2 ** (random() * 14 - 10),
)
const shown = Uint8ClampedArray.from(pixels, (value, i) => (i % 4 === 3 ? 255 : Math.sqrt(value) * 200))
const found = measureLight(pixels, shown, WIDTH)
const row = (all: Uint32Array, of: number, length: number): number[] => [
  ...all.subarray(of * length, (of + 1) * length),
]

it('codes and light are counted as numpy counts them', () => {
  const expected = pythonOf<{ codes: number[][]; stops: number[][] }>(
    `
import json, sys, numpy as np
d = json.load(sys.stdin)
shown = np.array(d['shown']).reshape(-1, 4)
pixels = np.array(d['pixels'], np.float64).reshape(-1, 4)
luma = np.floor(shown[:, :3] @ [0.2126, 0.7152, 0.0722] + 0.5).astype(int)
codes = [np.bincount(c, minlength=256).tolist() for c in (shown[:, 0], shown[:, 1], shown[:, 2], luma)]
edges = 0.18 * 2.0 ** (${FIRST_STOP} + np.arange(${STOPS * STOP_STEPS} + 1) / ${STOP_STEPS})
edges[0], edges[-1] = -np.inf, np.inf
light = pixels[:, :3] @ [0.2126, 0.7152, 0.0722]
stops = [np.histogram(c, edges)[0].tolist() for c in (pixels[:, 0], pixels[:, 1], pixels[:, 2], light)]
print(json.dumps({'codes': codes, 'stops': stops}))`,
    { shown: [...shown], pixels: [...pixels] },
  )
  for (let c = 0; c < 4; c++) {
    expect(row(found.codes, c, 256)).toEqual(expected.codes[c])
    const ours = row(found.stops, c, STOPS * STOP_STEPS)
    // A value on the border of two steps may stand in either: a hundredth of a stop
    const apart = ours.reduce((sum, value, i) => sum + Math.abs(value - expected.stops[c]![i]!), 0)
    expect(apart / found.count).toBeLessThan(0.09)
    expect(ours.reduce((sum, value) => sum + value, 0)).toBe(found.count)
  }
})
it('the wave has each column’s codes where they are', () => {
  const wave = (c: number, code: number, column: number): number =>
    found.wave[c * WAVE_ROWS * WAVE_COLUMNS + (code >> 1) * WAVE_COLUMNS + column]!
  expect(found.wave.reduce((sum, value) => sum + value, 0)).toBe(found.count * 4)
  for (const x of [0, 7, 160, 320])
    for (const y of [0, 31, 59]) {
      const at = (y * WIDTH + x) * 4
      for (let c = 0; c < 3; c++)
        expect(wave(c, shown[at + c]!, Math.floor((x * WAVE_COLUMNS) / WIDTH))).toBeGreaterThan(0)
    }
})
it('colours stand where BT.709 has Cb and Cr: full bars at its corners, greys in the middle', () => {
  const bars: [number, number, number][] = [
    [255, 0, 0],
    [0, 255, 0],
    [0, 0, 255],
    [255, 255, 0],
    [128, 128, 128],
  ]
  for (const [r, g, b] of bars) {
    const codes = Uint8ClampedArray.from([r, g, b, 255])
    const { vector } = measureLight(
      Float32Array.from([r, g, b, 255], v => v / 255),
      codes,
      1,
    )
    const at = vector.findIndex(value => value > 0)
    const luma = (0.2126 * r + 0.7152 * g + 0.0722 * b) / 255
    const expected = [(b / 255 - luma) / 1.8556, (r / 255 - luma) / 1.5748]
    const place = [(at % VECTOR_STEPS) / VECTOR_STEPS - 0.5, Math.floor(at / VECTOR_STEPS) / VECTOR_STEPS - 0.5]
    for (const c of [0, 1]) expect(Math.abs(place[c]! - expected[c]!)).toBeLessThanOrEqual(1 / VECTOR_STEPS)
  }
})
it('what is no number, below nothing or shown as the brightest is counted once a pixel', () => {
  const odd = Float32Array.from([NaN, 1, NaN, 1, -0.1, -0.2, 3, 1, 0.5, 0.5, 0.5, 1, Infinity, 0, 0, 1])
  const codes = Uint8ClampedArray.from([0, 255, 0, 255, 0, 0, 255, 255, 188, 188, 188, 255, 255, 0, 0, 255])
  const { none, below, brightest, count, stops } = measureLight(odd, codes, 2)
  expect([none, below, brightest, count]).toEqual([1, 1, 3, 4])
  expect(stops[STOPS * STOP_STEPS - 1]).toBe(1)
})
