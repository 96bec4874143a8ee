// What the instruments count, against numpy and the formulas of ITU-R BT.709-6.
import { describe, expect, it } from 'vitest'
import { PURE_LIGHT, uvOf } from '../core/measure/chromaticity'
import {
  FIRST_STOP,
  measureLight,
  PLANES,
  STOP_STEPS,
  STOPS,
  VECTOR_STEPS,
  WAVE_COLUMNS,
  WAVE_ROWS,
} from '../core/measure/light'
import { MARKS, markLight } from '../core/measure/marks'
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
it('the wave of what is narrow has no gaps: a column for each pixel across', () => {
  const width = 37
  const few = pixels.slice(0, width * 20 * 4)
  const { wave, columns } = measureLight(few, shown.slice(0, few.length), width)
  expect(columns).toBe(width)
  for (let x = 0; x < columns; x++) {
    let sum = 0
    for (let y = 0; y < WAVE_ROWS; y++) sum += wave[y * columns + x]!
    expect(sum).toBe(20)
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
// By what each is: no number, endless; darker than nothing; a colour outside, bright all the same; the brightest; none
const ODD = Float32Array.from(
  [
    [NaN, 1, 1],
    [Infinity, 0, 0],
    [-0.1, -0.2, 0.3],
    [-0.1, 0.2, 3],
    [1, 2, 0.5],
    [0.5, 0.5, 0.5],
  ].flatMap(colour => [...colour, 1]),
)
const SHOWN = Uint8ClampedArray.from(ODD, (value, i) => (i % 4 === 3 ? 255 : value * 255))
it('what one wants to know of is counted once a pixel, by the first that fits', () => {
  const { marks, count, stops } = measureLight(ODD, SHOWN, 3)
  expect(MARKS.map(({ id }) => id)).toEqual(['none', 'below', 'outside', 'brightest'])
  expect([marks, count]).toEqual([[2, 1, 1, 1], 6])
  expect(stops[STOPS * STOP_STEPS - 1]).toBe(1)
})
it('and is marked on the picture: in its colour, with the picture between, no other pixel', () => {
  const SIDE = 32
  for (const [index, { id, colour }] of MARKS.entries()) {
    const of = { none: 0, below: 2, outside: 3, brightest: 4 }[id]!
    const pixels = Float32Array.from({ length: SIDE * SIDE * 4 }, (_, i) =>
      // The right half is plain
      (i >> 2) % SIDE < SIDE / 2 ? ODD[of * 4 + (i % 4)]! : 0.5,
    )
    const codes = Uint8ClampedArray.from(pixels, (value, i) => (i % 4 === 3 ? 255 : value * 255))
    const marked = codes.slice()
    markLight(pixels, marked, SIDE, [id])
    let changed = 0
    for (let i = 0; i < SIDE * SIDE; i++) {
      const now = [...marked.subarray(i * 4, i * 4 + 3)]
      if (now.join() === [...codes.subarray(i * 4, i * 4 + 3)].join()) continue
      changed++
      expect(i % SIDE).toBeLessThan(SIDE / 2)
      expect(now).toEqual(colour)
    }
    expect(changed / ((SIDE * SIDE) / 2), id).toBeGreaterThan(0.25)
    expect(changed / ((SIDE * SIDE) / 2), id).toBeLessThan(0.6)
    const others = codes.slice()
    markLight(
      pixels,
      others,
      SIDE,
      MARKS.filter((_, i) => i !== index).map(one => one.id),
    )
    expect(others).toEqual(codes)
  }
})
it('the marks of a part are those of the whole there', () => {
  const [wide, high] = [24, 20]
  const pixels = Float32Array.from({ length: wide * high * 4 }, () => random() * 3 - 1.2)
  const codes = Uint8ClampedArray.from(pixels, value => value * 255)
  const all = MARKS.map(({ id }) => id)
  const whole = codes.slice()
  markLight(pixels, whole, wide, all)
  const cut = <T extends Float32Array | Uint8ClampedArray>(of: T): number[] => {
    const rows = Array.from({ length: 9 }, (_, y) => [
      ...of.subarray(((y + 5) * wide + 7) * 4, ((y + 5) * wide + 18) * 4),
    ])
    return rows.flat()
  }
  const part = Uint8ClampedArray.from(cut(codes))
  markLight(Float32Array.from(cut(pixels)), part, 11, all, 7, 5)
  expect([...part]).toEqual(cut(whole))
})
describe('chromaticity', () => {
  it.each([
    // Of Rec.709 and its white, x and y by ITU-R BT.709-6, u′ and v′ of them by CIE 15
    [
      [1, 0, 0],
      [0.64, 0.33],
      [0.4507, 0.5229],
    ],
    [
      [0, 1, 0],
      [0.3, 0.6],
      [0.125, 0.5625],
    ],
    [
      [0, 0, 1],
      [0.15, 0.06],
      [0.1754, 0.1579],
    ],
    [
      [1, 1, 1],
      [0.3127, 0.329],
      [0.1978, 0.4683],
    ],
    // Outside, and bright
    [[-0.2, 3, 0.1], undefined, undefined],
  ] as [number[], [number, number] | undefined, [number, number] | undefined][])('%s', (rgb, xy, uv) => {
    for (const [plane, expected] of [
      ['xy', xy],
      ['u′v′', uv],
    ] as const) {
      const { vector } = measureLight(Float32Array.of(...rgb, 1), Uint8ClampedArray.of(0, 0, 0, 255), 1, plane)
      const at = vector.findIndex(value => value > 0)
      expect(at).toBeGreaterThanOrEqual(0)
      const size = PLANES[plane] / VECTOR_STEPS
      const place = [((at % VECTOR_STEPS) + 0.5) * size, (Math.floor(at / VECTOR_STEPS) + 0.5) * size]
      for (const c of expected ? [0, 1] : []) expect(Math.abs(place[c]! - expected![c]!)).toBeLessThan(size)
    }
  })
  it('of black is none', () => {
    const { vector } = measureLight(Float32Array.of(0, 0, 0, 1), Uint8ClampedArray.of(0, 0, 0, 255), 1, 'xy')
    expect(vector.every(value => value === 0)).toBe(true)
  })
  it('u′ and v′ are those of CIE 15, and their border is that of the matching functions', () => {
    const [u, v] = uvOf([0.3127, 0.329])
    expect([u.toFixed(4), v.toFixed(4)]).toEqual(['0.1978', '0.4683'])
    // An analytic fit of them (C. Wyman, P.-P. Sloan, P. Shirley, JCGT 2 (2013), 1; coefficients from memory)
    const hill = (at: number, left: number, right: number, here: number): number =>
      Math.exp(-0.5 * ((here - at) / (here < at ? left : right)) ** 2)
    for (const [nm, x, y] of PURE_LIGHT) {
      if (nm < 420 || nm > 650) continue
      const large =
        1.056 * hill(599.8, 37.9, 31, nm) + 0.362 * hill(442, 16, 26.7, nm) - 0.065 * hill(501.1, 20.4, 26.2, nm)
      const high = 0.821 * hill(568.8, 46.9, 40.5, nm) + 0.286 * hill(530.9, 16.3, 31.1, nm)
      const deep = 1.217 * hill(437, 11.8, 36, nm) + 0.681 * hill(459, 26, 13.8, nm)
      const sum = large + high + deep
      expect(Math.hypot(large / sum - x, high / sum - y), `${nm} nm`).toBeLessThan(0.025)
    }
  })
})
