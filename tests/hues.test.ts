// Curves of hue against culori's OKLCh (npm): colours whose lightness, chroma and hue are told, and what becomes of them.
import { converter } from 'culori'
import { describe, expect, it } from 'vitest'
import { bend, roundBend } from '../core/colour/bend'
import { Kernels } from '../core/engine/memory'
import { Pool } from '../core/engine/pool'
import { degreesOfQuarters } from '../core/formula/colours'
import { kernelModule } from '../host/engine'
import { randomFrom } from './compose/random'
import { treat } from './compose/treat'

const pool = new Pool(new Kernels(kernelModule()))
type Three = readonly [number, number, number]
const rgb = converter('lrgb')
const oklch = converter('oklch')
const rgbOf = ([l, c, h]: Three): Three => {
  const { r, g, b } = rgb({ mode: 'oklch', l, c, h })
  return [r, g, b]
}
const lchOf = ([r, g, b]: Three): Three => {
  const { l, c, h } = oklch({ mode: 'lrgb', r, g, b })
  return [l, c, h ?? 0]
}
async function bent(values: Record<string, [number, number][]>, colours: readonly Three[]): Promise<Three[]> {
  const pixels = colours.flatMap(colour => [...rgbOf(colour), 1])
  const out = await treat(pool, 'hues', values, colours.length, 1, pixels)
  return colours.map((_, i) => lchOf([out[i * 4]!, out[i * 4 + 1]!, out[i * 4 + 2]!]))
}
const random = randomFrom(9)
/** Some brighter than white. */
const COLOURS = Array.from({ length: 60 }, (): Three => [0.3 + random(), 0.06 + random() * 0.14, random() * 360])
const apart = (a: number, b: number): number => Math.abs(((a - b + 540) % 360) - 180)
function near(found: readonly Three[], expected: readonly Three[]) {
  expected.forEach(([l, c, h], i) => {
    expect(Math.abs(found[i]![0] - l), `lightness of ${i}`).toBeLessThan(2e-4)
    expect(Math.abs(found[i]![1] - c), `chroma of ${i}`).toBeLessThan(2e-4)
    expect(apart(found[i]![2], h), `hue of ${i}: ${found[i]![2]} for ${h}`).toBeLessThan(0.15)
  })
}

describe('curves of hue', () => {
  it('that are one value everywhere turn and strengthen all alike', async () => {
    near(
      await bent({ turn: [[100, 40]] }, COLOURS),
      COLOURS.map(([l, c, h]) => [l, c, h + 40]),
    )
    near(
      await bent({ saturation: [[0, 1.7]] }, COLOURS),
      COLOURS.map(([l, c, h]) => [l, c * 1.7, h]),
    )
    // A stop is twice the light: by the cube root of it, lightness and chroma alike
    const twice = Math.cbrt(2)
    near(
      await bent({ stops: [[0, 1]] }, COLOURS),
      COLOURS.map(([l, c, h]) => [l * twice, c * twice, h]),
    )
  })
  it('give each point its value, and what lies between them something between', async () => {
    const turn: [number, number][] = [
      [20, 10],
      [140, -30],
      [265, 50],
      [350, 5],
    ]
    near(
      await bent(
        { turn },
        turn.map(([hue]): Three => [0.6, 0.1, hue]),
      ),
      turn.map(([hue, more]) => [0.6, 0.1, hue + more]),
    )
    // Over the seam from 350 to 20 degrees: never beyond either, ever more, no leap
    const across = Array.from({ length: 31 }, (_, i): Three => [0.6, 0.1, (350 + i) % 360])
    const more = (await bent({ turn }, across)).map(([, , h], i) => ((h - across[i]![2] + 540) % 360) - 180)
    for (const [i, value] of more.entries()) {
      expect(value).toBeGreaterThan(5 - 0.1)
      expect(value).toBeLessThan(10 + 0.1)
      if (i) {
        expect(value).toBeGreaterThan(more[i - 1]! - 0.05)
        expect(value - more[i - 1]!).toBeLessThan(0.6)
      }
    }
  })
  it('strengthen by brightness as the eye takes it, of every hue alike', async () => {
    const greys = [0.2, 0.5, 0.9]
    // Colours of a luminance (Rec.709) that a power of 2.4 makes of that
    const colours = greys.map((seen): Three => {
      const [r, g, b] = rgbOf([0.6, 0.08, 200])
      const luminance = 0.2126 * r + 0.7152 * g + 0.0722 * b
      return lchOf([r, g, b].map(value => (value * seen ** 2.4) / luminance) as unknown as Three)
    })
    const by_light: [number, number][] = [
      [0.2, 0],
      [0.5, 1.5],
      [0.9, 1],
    ]
    near(
      (await bent({ by_light }, colours)).map(([l, c, h], i): Three => [l, c, i ? h : 0]),
      colours.map(([l, c, h], i) => [l, c * by_light[i]![1], i ? h : 0]),
    )
  })
  it('leave greys as they are', async () => {
    const greys = [0, 0.02, 0.18, 1, 9].flatMap(value => [value, value, value, 1])
    const values = { turn: [[0, 90]], saturation: [[0, 3]], stops: [[0, 2]] } as Record<string, [number, number][]>
    const out = await treat(pool, 'hues', values, 5, 1, greys)
    for (const [i, value] of [...out].entries()) expect(Math.abs(value - greys[i]!)).toBeLessThan(2e-6 * 9)
  })
})

describe('a curve round a circle', () => {
  const points: [number, number][] = [
    [30, 1],
    [90, 4],
    [200, -2],
  ]
  it('is the same a turn on, goes through its points, and has no kink where it closes', () => {
    const at = roundBend(points, 360)
    for (const [x, y] of points) for (const turn of [-720, -360, 0, 360]) expect(at(x + turn)).toBeCloseTo(y, 12)
    expect(at(-0.001)).toBeCloseTo(at(0.001), 3)
    expect((at(0) - at(-0.001)) / 0.001).toBeCloseTo((at(0.001) - at(0)) / 0.001, 3)
    for (const x of [0, 77, 359]) expect(roundBend([[12, 3]], 360)(x)).toBeCloseTo(3, 12)
  })
  it('is between its points what an endless row of them is', () => {
    const row = bend(
      Array.from({ length: 9 }, (_, k) => points.map(([x, y]): [number, number] => [x + (k - 4) * 360, y])).flat(),
    )
    const at = roundBend(points, 360)
    for (let x = 0; x < 360; x += 7) expect(at(x)).toBeCloseTo(row(x), 9)
  })
  it('places on the circle are told without an angle, and are that angle', () => {
    for (let degrees = 0; degrees < 360; degrees += 0.5) {
      const [x, y] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
      const share = x / (Math.abs(x) + Math.abs(y))
      expect(apart(degreesOfQuarters(y >= 0 ? 1 - share : share + 3), degrees)).toBeLessThan(1e-9)
    }
  })
})
