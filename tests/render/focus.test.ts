// A picture taken out of focus against the true lens of the renderer, which is the truth: rods near and far, and bright
// points behind an edge. All pictures are rendered here; the lens is checked against formulas of optics by itself.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { circleAtInfinity } from '../../core/lens/focus'
import { ROUND, type Aperture } from '../../core/lens/aperture'
import type { TrueLens } from '../../core/render/render'
import { startEngine, type Engine } from '../../host/engine'
import { randomFrom } from '../compose/random'
import { treat } from '../compose/treat'
import { comb, discBlur, finished, lamp, points, psnr, sharp, truth, windows, type View } from '../focusScenes'

let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())
const ours = (view: View, { fNumber, distance, aperture }: TrueLens): Promise<Float32Array> =>
  finished(engine, view, [['focus', { distance, fNumber, factor: 1, most: 60, ...aperture }]])

describe('the true lens', () => {
  /** Middle and spread of all light above the ground's, pixels; right and down. */
  const momentsOf = (
    picture: Float32Array,
    channels: number,
  ): { sum: number; x: number; y: number; radius: number; third: number } => {
    let [sum, x, y, square, third] = [0, 0, 0, 0, 0]
    const each = (use: (light: number, px: number, py: number) => void): void => {
      for (let i = 0; i < picture.length / channels; i++)
        use(picture[i * channels]!, (i % 96) + 0.5, Math.floor(i / 96) + 0.5)
    }
    each((light, px, py) => {
      sum += light
      x += light * px
      y += light * py
    })
    x /= sum
    y /= sum
    each((light, px, py) => {
      square += light * ((px - x) ** 2 + (py - y) ** 2)
      third += light * (px - x) ** 3
    })
    return { sum, x, y, radius: Math.sqrt(square / sum), third: third / sum }
  }
  const lens = { fNumber: 0.1, distance: 6, aperture: ROUND }
  const spread = (distance: number): number =>
    Math.abs(circleAtInfinity({ focalLength: 80, sensorWidth: 36 }, 0.1, 6, 96) * (1 - 6 / distance))
  it.each([3, 6, 12, 40])('a point %i m away is as large as the formula says, and keeps its light', distance => {
    const view = lamp(distance)
    const still = momentsOf(truth(engine, view, { ...lens, fNumber: 1e6 }, 256), 3)
    const seen = momentsOf(truth(engine, view, lens, 512), 3)
    expect(Math.abs(seen.sum / still.sum - 1)).toBeLessThan(0.02)
    expect(Math.abs(seen.x - still.x)).toBeLessThan(0.08)
    expect(Math.abs(seen.y - still.y)).toBeLessThan(0.08)
    // A disc of radius r spreads by r²/2 about its middle
    const circle = Math.sqrt(2 * Math.max(0, seen.radius ** 2 - still.radius ** 2))
    expect(Math.abs(circle - spread(distance))).toBeLessThan(0.03 * spread(distance) + 0.12)
  })
  it.each([
    ['three blades, far', 14, { ...ROUND, blades: 3 }],
    ['three blades, near', 3.6, { ...ROUND, blades: 3 }],
    ['a bright rim', 14, { ...ROUND, rim: 0.9 }],
    ['twice as tall as wide', 14, { ...ROUND, squeeze: 2 }],
    // The renderer asks the barrel at each pixel, Focus once for a square
    ['a cat’s eye', 14, { ...ROUND, catsEye: 1 }, 0.2],
  ] as [string, number, Aperture, number?][])(
    'and Focus see the same shape of %s',
    async (_, distance, aperture, tolerance = 0.02) => {
      const view = lamp(distance, 'corner')
      const seen = momentsOf(truth(engine, view, { ...lens, aperture }, 768), 3)
      const made = momentsOf(await ours(view, { ...lens, aperture }), 4)
      expect(Math.abs(made.sum / seen.sum - 1)).toBeLessThan(tolerance)
      expect(Math.abs(made.x - seen.x)).toBeLessThan(0.1 + 2 * tolerance)
      expect(Math.abs(made.y - seen.y)).toBeLessThan(0.1 + 2 * tolerance)
      expect(Math.abs(made.radius / seen.radius - 1)).toBeLessThan(0.03)
      if (aperture.blades === 3) {
        // Where the corner points: near things are seen the other way round than far ones
        expect(Math.sign(seen.third)).toBe(distance > 6 ? 1 : -1)
        expect(Math.abs(made.third / seen.third - 1)).toBeLessThan(0.15)
      }
    },
  )
  it('keeps passes of data sharp when asked to', () => {
    const view = comb(0)
    const plain = sharp(engine, view, undefined, 8)
    const kept = sharp(engine, view, { ...lens, sharpData: true }, 8)
    const soft = sharp(engine, view, lens, 8)
    // As much of every object in every pixel: the same rays through the middle of the lens
    expect([...kept.coverage]).toEqual([...plain.coverage])
    expect([...soft.coverage]).not.toEqual([...plain.coverage])
    expect([...kept.depth]).toEqual([...plain.depth])
  })
})

// Views of three scenes at three f-numbers: focusTable.test.ts
describe('Focus', () => {
  it.each([
    ['rods, the middle in focus', comb, 6, 0.35],
    ['bright points behind a soft edge', points, 20, 0.5],
  ] as const)(
    '%s: near to the truth, at least 3 dB nearer than a disc blur by depth',
    async (_, make, distance, fNumber) => {
      const view = make(0.5)
      const lens = { fNumber, distance, aperture: { ...ROUND, blades: 7 } }
      const real = truth(engine, view, lens)
      const own = psnr(real, await ours(view, lens))
      const plain = psnr(real, discBlur(sharp(engine, view, undefined), view, lens))
      expect(own).toBeGreaterThan(31)
      expect(own).toBeGreaterThan(plain + 3)
    },
  )
  it.each([
    ['a slab of glass and a mirror, the wall behind in focus', true, 14],
    ['a pane of glass and a mirror, what is mirrored in focus', false, 13],
  ] as const)('%s: what glass shows and mirrors goes by its own distance', async (_, solid, distance) => {
    const view = windows(solid)
    const lens = { fNumber: 0.12, distance, aperture: { ...ROUND, blades: 7 } }
    const real = truth(engine, view, lens, 64)
    const own = psnr(real, await ours(view, lens))
    // By the distance of the glass and the mirror all alike
    expect(own).toBeGreaterThan(28)
    expect(own).toBeGreaterThan(psnr(real, await ours({ ...view, showsBeyond: 'light alone' }, lens)) + 4)
  })
  it('darkens nothing at the rim of a bright circle', async () => {
    // Bright bars before a wall in focus, light on the left: what one square leaves in the kernel's room is not the next's
    const [width, height] = [192, 40]
    const isBar = (x: number): boolean => Math.abs(x - 90) < 3 || Math.abs(x - 150) < 4
    const pixels = Float32Array.from({ length: width * height * 4 }, (_, i) => {
      const x = Math.floor(i / 4) % width
      return i % 4 === 3 ? 1 : isBar(x) ? 0.9 : x < 110 ? 0.3 : 0.02
    })
    const depth = Array.from({ length: width * height }, (_, i) => (isBar(i % width) ? 3 : 14))
    for (const radius of [5.5, 7.5, 9, 10, 11.5, 13, 14, 15.5, 17, 26]) {
      const fNumber = circleAtInfinity({ focalLength: 35, sensorWidth: 36 }, 1, 14, width) * (11 / 3 / radius)
      const values = { distance: 14, fNumber, factor: 1, most: 60, ...ROUND }
      const out = await treat(engine.pool, 'focus', values, width, height, pixels, { depth })
      for (let y = 0; y < height; y++)
        for (let x = 0; x < 84; x++)
          expect(out[(y * width + x) * 4], `${radius} px, at ${x}, ${y}`).toBeGreaterThan(0.2999)
    }
  })
  it('leaves an even picture even up to its edges, whatever stands where in it', async () => {
    const pixels = Float32Array.from({ length: 96 * 64 * 4 }, (_, i) => [0.3, 0.5, 0.2, 1][i % 4]!)
    const depth = Array.from({ length: 96 * 64 }, (_, i) => ((i % 96) % 30 < 12 ? 2 : i > 3000 ? 400 / (i / 96) : 30))
    const values = { distance: 5, fNumber: 0.2, most: 12, blades: 5, catsEye: 0.7 }
    const out = await treat(engine.pool, 'focus', values, 96, 64, pixels, { depth })
    for (let i = 0; i < out.length; i++) expect(Math.abs(out[i]! - pixels[i]!)).toBeLessThan(1e-4)
  })
  it('gives the same to the bit for any area and any number of threads, across its squares', async () => {
    const [width, height] = [300, 200]
    const random = randomFrom(5)
    const pixels = Float32Array.from({ length: width * height * 4 }, (_, i) => (i % 4 === 3 ? 1 : random()))
    // A part of it is covered half
    for (let i = 0; i < 40 * 4; i++) pixels[(150 * width + 200) * 4 + i]! *= 0.5
    const depth = Array.from({ length: width * height }, (_, i) => (i % 97 < 30 ? 2 : 6 + (i % width) / 20))
    const values = { distance: 7, fNumber: 0.1, factor: 3, most: 14, blades: 5, catsEye: 0.8, rim: 0.4 }
    const one = await startEngine(1)
    const whole = await treat(one.pool, 'focus', values, width, height, pixels, { depth })
    expect(await treat(engine.pool, 'focus', values, width, height, pixels, { depth })).toEqual(whole)
    for (const area of [
      { left: 100, top: 90, right: 180, bottom: 170 },
      { left: 0, top: 0, right: 7, bottom: 200 },
      { left: 255, top: 127, right: 300, bottom: 129 },
      // At the borders of its squares
      { left: 128, top: 128, right: 140, bottom: 140 },
      { left: 120, top: 100, right: 128, bottom: 128 },
    ]) {
      const part = await treat(engine.pool, 'focus', values, width, height, pixels, { depth, area })
      const across = area.right - area.left
      for (let i = 0; i < part.length; i++) {
        const [x, y] = [area.left + ((i >> 2) % across), area.top + Math.floor((i >> 2) / across)]
        if (part[i] !== whole[(y * width + x) * 4 + (i & 3)]) throw new Error(`${x} ${y}`)
      }
    }
    await one.stop()
  })
  it('what is no number in a distance leaves no hole', async () => {
    const pixels = new Float32Array(60 * 40 * 4).fill(0.5)
    const depth = Array.from({ length: 60 * 40 }, (_, i) =>
      i % 53 === 0 ? NaN : i % 31 === 0 ? -2 : 4 + (i % 60) / 10,
    )
    const out = await treat(engine.pool, 'focus', { distance: 5, fNumber: 0.3 }, 60, 40, pixels, { depth })
    for (const value of out) expect(Math.abs(value - 0.5)).toBeLessThan(1e-4)
  })
  it('loses no light of a spark far from all edges, and none spills over what is nearer and sharp', async () => {
    const [width, height] = [128, 80]
    const pixels = new Float32Array(width * height * 4)
    for (let i = 3; i < pixels.length; i += 4) pixels[i] = 1
    const at = (x: number, y: number): number => (y * width + x) * 4
    pixels[at(90, 40)] = 1000
    pixels[at(44, 40)] = 1000
    const depth = Array.from({ length: width * height }, (_, i) => (i % width < 40 ? 5 : 30))
    const values = { distance: 5, fNumber: 0.35, most: 20 }
    const out = await treat(engine.pool, 'focus', values, width, height, pixels, { depth })
    let whole = 0
    let left = 0
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        if (x < 40) left = Math.max(left, out[at(x, y)]!)
        else if (x > 66) whole += out[at(x, y)]!
    expect(left).toBe(0)
    expect(Math.abs(whole / 1000 - 1)).toBeLessThan(1e-4)
  })
})
