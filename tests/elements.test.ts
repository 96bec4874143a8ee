// Elements in a built shot: where the camera's projection has them, thick as their air is by numeric integration, lit as
// distances say, cut by what stands within them.
import { describe, expect, it } from 'vitest'
import { writePng } from '../core/formats/png/png'
import { placeAt, project } from '../core/match/project'
import { newTreatment, type ElementLayer, type PictureReference, type ShotDocument } from '../core/shot/document'
import { bringLayer } from '../core/shot/bring'
import { partElement } from '../core/shot/elements'
import { addRow } from '../core/shot/rows'
import type { Vector3 } from '../core/scene/vector'
import { HEIGHT, keep, WIDTH } from './buildShot'
import { across, depthOfBall, eye, marched, middleOf, only, pixels, plain, shot } from './elementShot'

describe('where it is seen', () => {
  it('is as large and where the projection of the camera has it', async () => {
    const at: Vector3 = [0.4, 1.1, -5]
    const told = shot(plain(1, 1), (element, d) => {
      only(d)
      Object.assign(element, { x: at[0], y: at[1], z: at[2], size: 0.8, turn: 0 })
    })
    const data = await pixels(told)
    let [sum, x, y] = [0, 0, 0]
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      const alpha = data[i * 4 + 3]!
      sum += alpha
      x += alpha * ((i % WIDTH) + 0.5)
      y += alpha * (Math.floor(i / WIDTH) + 0.5)
    }
    const { u, v, metres } = project(eye(), WIDTH / HEIGHT, at)
    expect(x / sum).toBeCloseTo(u * WIDTH, 1)
    expect(y / sum).toBeCloseTo(v * HEIGHT, 1)
    // 0.8 by 1.6 m across the view, at so many pixels a metre
    const dense = (eye().focalLength / eye().sensorWidth) * (WIDTH / metres)
    expect(sum / (0.8 * 1.6 * dense * dense)).toBeCloseTo(1, 2)
  })
  it('turned and mirrored, the side that was right is where that puts it', async () => {
    // Bright on its right half only
    const data = new Uint8Array(40 * 20 * 3).map((_, i) => (Math.floor(i / 3) % 40 < 20 ? 0 : 255))
    const half: PictureReference = {
      blob: keep(writePng({ width: 40, height: 20, channels: 3, maximum: 255, data })),
      ...{ name: 'half.png', encoding: 'linear', alpha: 'none' as const, width: 40, height: 20 },
    }
    const weight = async (change: Partial<ElementLayer>) => {
      const data = await pixels(
        shot(half, (element, d) => {
          only(d)
          Object.assign(element, { ...across(5), size: 1 }, change)
        }),
      )
      let [sum, x, y] = [0, 0, 0]
      for (let i = 0; i < WIDTH * HEIGHT; i++) {
        sum += data[i * 4]!
        x += data[i * 4]! * ((i % WIDTH) + 0.5 - WIDTH / 2)
        y += data[i * 4]! * (Math.floor(i / WIDTH) + 0.5 - HEIGHT / 2)
      }
      return [x / sum, y / sum] as const
    }
    const [right] = await weight({})
    expect(right).toBeGreaterThan(1)
    expect((await weight({ facing: 'mirrored' }))[0]).toBeCloseTo(-right, 1)
    // Clockwise by a quarter the right side is below
    const [x, y] = await weight({ turn: 90 })
    expect(x).toBeCloseTo(0, 1)
    expect(y).toBeCloseTo(right, 1)
  })
})

describe('a thick element', () => {
  const THICK = 4
  // What stands in it nearer and nearer; the first and the last are beyond it
  it.each([7.5, 10.5, 9.2, 8, 6.9, 5.7])(
    'around a sheet %f m away looks as slices of its air do, summed up',
    async metres => {
      for (const [cover, alpha] of [
        [0.9, 1],
        [0.5, 1],
        [0.7, 0.5],
      ] as const) {
        const grey = 0.6
        const told = shot(plain(grey, cover), (element, d) => {
          only(d)
          Object.assign(element, { ...across(8), thickness: THICK })
          const sheet = bringLayer(d, plain(0.1, alpha), 1, 'sheet', metres)
          Object.assign(sheet, { scale: 10 })
        })
        const found = middleOf(await pixels(told))[0]
        const at = (metres - (8 - THICK / 2)) / THICK
        const sheet = { at, value: Math.floor(0.1 * 255) / 255, alpha: Math.floor(alpha * 255) / 255 }
        expect(
          Math.abs(found - marched(Math.floor(cover * 255) / 255, Math.floor(grey * 255) / 255, sheet)),
        ).toBeLessThan(5e-4)
      }
    },
  )
  it('lets a rendered thing out of it by its own depth, pixel by pixel', async () => {
    const told = (thickness: number, metres: number) =>
      shot(plain(0.9, 0.8), (element, d) => {
        d.build.layers.shadow!.on = false
        Object.assign(element, { ...across(metres), thickness })
      })
    // The near ball is 4 m away and 1.4 m thick: its middle is nearer than its rim
    const balls = await pixels(shot(plain(0, 0), (_, d) => (d.build.layers.shadow!.on = false)))
    const thin = await pixels(told(0, 3.6))
    const deep = await pixels(told(1.4, 3.9))
    const middle = project(eye(), WIDTH / HEIGHT, [-0.8, 0.7, -4])
    const cover = Math.floor(0.8 * 255) / 255
    const share = (data: Float32Array, i: number): number =>
      (data[i * 4]! - balls[i * 4]!) / (Math.floor(0.9 * 255) / 255 - balls[i * 4]!)
    for (const dx of [0, -2, 3, 4]) {
      const [x, y] = [Math.floor(middle.u * WIDTH) + dx, Math.floor(middle.v * HEIGHT)]
      const depth = depthOfBall((x + 0.5) / WIDTH, (y + 0.5) / HEIGHT)
      const part = Math.min(1, Math.max(0, (depth - 3.2) / 1.4))
      expect(part).toBeGreaterThan(0.02)
      expect(Math.abs(share(deep, y * WIDTH + x) - (1 - (1 - cover) ** part))).toBeLessThan(0.03)
      expect(share(thin, y * WIDTH + x)).toBeCloseTo(depth > 3.6 ? cover : 0, 3)
    }
  })
  it('by its copies, each at its own distance, with what stands between', async () => {
    const grey = plain(0.5, 0.6)
    const told = shot(grey, (element, d) => {
      only(d)
      const [x, y, z] = placeAt(eye(), WIDTH / HEIGHT, 0.5, 0.5, 12)
      Object.assign(element, {
        ...across(6),
        size: 30,
        copies: 2,
        spread: 'along a line',
        end_x: x,
        end_y: y,
        end_z: z,
      })
      Object.assign(bringLayer(d, plain(0.1, 1), 1, 'sheet', 9), { scale: 10 })
    })
    const parted = structuredClone(told)
    partElement(parted, 'element', 1)
    const [a, b] = [await pixels(told), await pixels(parted)]
    const [value] = middleOf(a)
    // One before the sheet, one behind it
    const [cover, own, sheet] = [153 / 255, 127 / 255, 25 / 255]
    expect(value).toBeCloseTo(own * cover + sheet * (1 - cover), 4)
    let worst = 0
    a.forEach((one, i) => (worst = Math.max(worst, Math.abs(one - b[i]!))))
    expect(worst).toBeLessThan(1e-5)
  })
})

describe('on black', () => {
  const black = (grey: number): PictureReference => ({ ...plain(grey, 1), alpha: 'none' })
  const over = async (grey: number, change: Partial<ElementLayer>): Promise<number> => {
    const told = shot(black(grey), (element, d) => {
      only(d)
      Object.assign(element, across(5), change)
      Object.assign(bringLayer(d, plain(0.2, 1), 1, 'sheet', 9), { scale: 10 })
    })
    return middleOf(await pixels(told))[0]
  }
  const [own, sheet] = [102 / 255, 51 / 255]
  it('hides what is behind it by its brightness, or is light that is added', async () => {
    expect(await over(0.4, { mode: 'over' })).toBeCloseTo(own + sheet * (1 - own), 4)
    expect(await over(0.4, { mode: 'over', hides: 0.5 })).toBeCloseTo(own + sheet * (1 - own / 2), 4)
    expect(await over(0.4, { mode: 'over', hides: 0 })).toBeCloseTo(own + sheet, 3)
    // Black is nothing, and so is what is no brighter than that level
    expect(await over(0, { mode: 'screen' })).toBeCloseTo(sheet, 5)
    expect(await over(0.1, { mode: 'screen', black: 0.12 })).toBeCloseTo(sheet, 5)
    // Screened (W3C): a + b - a b, of what covers itself
    expect(await over(0.4, { mode: 'screen' })).toBeCloseTo(own + sheet * (1 - own), 4)
  })
  it('dissolves from all to nothing, in patches, and its edges fade', async () => {
    const sum = async (change: Partial<ElementLayer>): Promise<{ mean: number; spread: number }> => {
      const data = await pixels(
        shot(plain(1, 1), (element, d) => {
          only(d)
          Object.assign(element, { ...across(5), size: 1.2 }, change)
        }),
      )
      const all = [...Array(WIDTH * HEIGHT).keys()].map(i => data[i * 4 + 3]!)
      return { mean: all.reduce((a, b) => a + b), spread: all.filter(value => value > 0.98).length }
    }
    const whole = await sum({})
    const half = await sum({ dissolved: 0.5 })
    expect(half.mean / whole.mean).toBeGreaterThan(0.3)
    expect(half.mean / whole.mean).toBeLessThan(0.7)
    // Patches: much of it is wholly there
    expect(half.spread).toBeGreaterThan(whole.spread * 0.2)
    expect((await sum({ dissolved: 0.15 })).mean).toBeGreaterThan(half.mean)
    expect((await sum({ dissolved: 1 })).mean).toBe(0)
    const faded = await sum({ edges: 0.25 })
    // A smooth step over a quarter of its height leaves as much as edges an eighth in: of 2 by 1, 1.75 by 0.75
    expect(faded.mean / whole.mean).toBeCloseTo((1.75 * 0.75) / 2, 1)
  })
})

describe('lit', () => {
  it('by a lamp it is as bright as its distance says, and tinted', async () => {
    const lamp: Vector3 = [0.5, 1.6, -4.4]
    const told = shot(plain(1, 1), (element, d) => {
      only(d)
      Object.assign(element, { ...across(5), lit: 1, by: 'one light', light: 'lantern', tint: [1, 0.5, 1] })
      addRow(d.scene.lights, {
        ...{ id: 'lantern', name: 'lantern', kind: 'ball' as const, on: true, kelvin: 6500, stops: 6, diameter: 1 },
        ...{ azimuth: 0, elevation: 90, distance: 1, width: 0.1, height: 0.1 },
        target: [lamp[0], lamp[1] - 1, lamp[2]],
      })
    })
    const data = await pixels(told)
    for (const [x, y] of [
      [24, 16],
      [6, 5],
      [40, 28],
    ] as const) {
      const place = placeAt(eye(), WIDTH / HEIGHT, (x + 0.5) / WIDTH, (y + 0.5) / HEIGHT, 5)
      const far = Math.hypot(place[0] - lamp[0], place[1] - lamp[1], place[2] - lamp[2])
      const [red, green, blue] = data.subarray((y * WIDTH + x) * 4)
      // A ball of radiance L and radius r gives pi L r^2 / d^2 of irradiance; a white thing sends on the part over pi
      const luminance = 0.2126 * red! + 0.7152 * green! * 2 + 0.0722 * blue!
      expect(luminance / ((64 * 0.05 ** 2) / far ** 2)).toBeCloseTo(1, 2)
    }
    // Half lit it is half of that and half of what it is by itself
    const half = structuredClone(told)
    Object.assign(half.build.layers.element!, { lit: 0.5, tint: [1, 1, 1] })
    expect((await pixels(half))[0]).toBeCloseTo(0.5 + data[0]! / 2, 3)
    // By a light that is not there it is dark
    const none = structuredClone(told)
    Object.assign(none.build.layers.element!, { light: 'gone' })
    expect((await pixels(none))[0]).toBe(0)
  })
})

it('treatments and a slip work on all of its copies', async () => {
  const told = shot(plain(1, 1), (element, d) => {
    only(d)
    Object.assign(element, { ...across(5), size: 0.5, copies: 3, spread: 'in a region', wide: 2, tall: 1, deep: 2 })
    addRow(element.treatments, newTreatment('exposure', { stops: -1 }))
  })
  const plainData = await pixels({ ...told, build: { layers: { ...told.build.layers, element: { ...told.build.layers.element!, treatments: {} } } } } as ShotDocument) // prettier-ignore
  const data = await pixels(told)
  let most = 0
  data.forEach((value, i) => {
    if (i % 4 < 3) most = Math.max(most, Math.abs(value - plainData[i]! / 2))
  })
  expect(most).toBeLessThan(1e-6)
  expect(Math.max(...plainData)).toBeGreaterThan(0.9)
})
