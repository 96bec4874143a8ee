// Fog banks, gradients, clouds and specks in a built shot: as thick as their air is, hidden one by one, the same however many work on them.
import { describe, expect, it } from 'vitest'
import { firstValues } from '../core/declare/values'
import { layerKindOf } from '../core/layer/registry'
import { Evaluator } from '../core/compose/evaluate'
import type { ShotDocument, SpecksLayer } from '../core/shot/document'
import { bringLayer } from '../core/shot/bring'
import { addLayer, makeLayer } from '../core/shot/layers'
import { settingsOfCamera } from '../core/shot/scene'
import { addRow } from '../core/shot/rows'
import { speckValues } from '../core/shot/specks'
import { camera, changed, FARTHER, HEIGHT, load, NEAR, one, WIDTH } from './buildShot'
import { depthOfBall, eye, marched, middleOf, only, pixels, plain, shot } from './elementShot'

it.each([3, 5, 6.5, 8, 11])('a fog bank about a sheet %f m away looks as slices of its air do', async metres => {
  for (const [dense, alpha] of [
    [0.8, 1],
    [0.5, 0.5],
  ] as const) {
    const told = shot(plain(0, 0), (element, d) => {
      only(d)
      element.on = false
      const fog = makeLayer('fogbank', { near: 4, far: 9, dense, colour: [0.6, 0.6, 0.6] })
      addLayer(d, fog)
      Object.assign(bringLayer(d, plain(0.1, alpha), 1, 'sheet', metres), { scale: 10 })
    })
    const sheet = { at: (metres - 4) / 5, value: Math.floor(0.1 * 255) / 255, alpha: Math.floor(alpha * 255) / 255 }
    expect(Math.abs(middleOf(await pixels(told))[0] - marched(dense, 0.6, sheet))).toBeLessThan(2e-4)
  }
})
it('a fog bank hides the farther ball more than the nearer, and in clouds unevenly', async () => {
  const fogged = (change: Record<string, unknown>) =>
    changed(d => {
      d.build.layers.shadow!.on = false
      addLayer(d, makeLayer('fogbank', { near: 2, far: 10, dense: 0.9, colour: [3, 0, 3], ...change }))
    })
  const bare = await pixels(changed(d => (d.build.layers.shadow!.on = false)))
  const [even, clouds] = [await pixels(fogged({})), await pixels(fogged({ uneven: 1, cloud: 10 }))]
  const added = (data: Float32Array, i: number): number => data[i * 4]! - bare[i * 4]!
  expect(added(even, NEAR())).toBeGreaterThan(0.2)
  expect(added(even, FARTHER())).toBeGreaterThan(added(even, NEAR()) + 0.4)
  const spread = (data: Float32Array): number => {
    const row = Array.from({ length: WIDTH }, (_, x) => added(data, x))
    return Math.max(...row) - Math.min(...row)
  }
  expect(spread(even)).toBeLessThan(0.05)
  expect(spread(clouds)).toBeGreaterThan(0.5)
})

describe('specks', () => {
  const snow = (change: Partial<SpecksLayer>): ShotDocument =>
    changed(d => {
      Object.assign(d.scene.camera, settingsOfCamera(camera))
      d.build.layers.shadow!.on = false
      const made = makeLayer('specks', {
        ...speckValues('snow'),
        lit: 0,
        blurred: 'not',
        density: 400,
        size: 20,
        ...change,
      })
      addLayer(d, { ...made, id: 'snow' } as typeof made)
    })
  const without = () => changed(d => (d.build.layers.shadow!.on = false))
  const onBall = (): number[] => {
    const found: number[] = []
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      const far = depthOfBall(((i % WIDTH) + 0.5) / WIDTH, (Math.floor(i / WIDTH) + 0.5) / HEIGHT)
      // Without the pixels of its border
      if (far < 3.6) found.push(i)
    }
    return found
  }
  const differ = (a: Float32Array, b: Float32Array, where: readonly number[]): number =>
    where.filter(i => Math.abs(a[i * 4]! - b[i * 4]!) > 1e-3).length / where.length

  it('are hidden by what is nearer, and hide what is farther, each by itself', async () => {
    const [bare, ball] = [await pixels(without()), onBall()]
    const rest = [...Array(WIDTH * HEIGHT).keys()].filter(i => !ball.includes(i))
    expect(ball.length).toBeGreaterThan(20)
    const behind = await pixels(snow({ near: 5, far: 9 }))
    expect(differ(behind, bare, ball)).toBe(0)
    expect(differ(behind, bare, rest)).toBeGreaterThan(0.5)
    const before = await pixels(snow({ near: 0.5, far: 3 }))
    expect(differ(before, bare, ball)).toBeGreaterThan(0.3)
    // Of those on both sides of it as many cover it as there are before it
    const both = await pixels(snow({ near: 0.5, far: 9 }))
    expect(differ(both, bare, ball)).toBeGreaterThan(0.3)
  })
  it('lit by one light are what that light gives, and all lights together are the sum', async () => {
    // Light is additive (superposition)
    const lit = (light?: string) =>
      snow({ near: 0.5, far: 9, lit: 1, hides: 1, ...(light === undefined ? {} : { light }) })
    const under = async (light?: string): Promise<Float32Array> => {
      const told = lit(light)
      for (const [id, layer] of Object.entries(told.build.layers)) if (id !== 'snow') layer.on = false
      told.scene.environment = null
      for (const [name, x, kelvin] of [
        ['left', -2, 2400],
        ['right', 2, 9000],
      ] as const)
        addRow(told.scene.lights, {
          ...{ id: name, name, kind: 'ball' as const, on: true, kelvin, stops: 6, diameter: 1 },
          ...{ azimuth: 0, elevation: 90, distance: 1, width: 0.1, height: 0.1, target: [x, 1, -3] },
        })
      return pixels(told)
    }
    const [left, right, both, gone] = [await under('left'), await under('right'), await under(), await under('gone')]
    const sum = (of: Float32Array): number => of.reduce((all, value, i) => all + (i % 4 < 3 ? value : 0), 0)
    expect(sum(gone)).toBe(0)
    expect([sum(left) > 1, sum(right) > 1]).toEqual([true, true])
    for (let i = 0; i < both.length; i++)
      if (i % 4 < 3) expect(Math.abs(left[i]! + right[i]! - both[i]!)).toBeLessThan(1e-4 * Math.max(1, both[i]!))
  })
  it('are the same with one worker and with two', async () => {
    const told = snow({ near: 0.5, far: 9, there: 0.5 })
    const evaluator = new Evaluator(one.pool, load, 2 ** 28)
    const raster = await evaluator.evaluate({ document: told, frame: 1, shrink: 1, show: { kind: 'build' } })
    expect(one.kernels.floats(raster.pointer, WIDTH * HEIGHT * 4).slice()).toEqual(await pixels(told))
  })
  it('cover as much as their areas do', async () => {
    // Black before white: what is missing of the white is what they cover
    const told = snow({ near: 2, far: 6, density: 30, size: 10, sizes: 0, colour: [0, 0, 0], other: [0, 0, 0], hides: 1, turning: 0, long: 1, soft: 0.5, fall: 0, sway: 0, floor: -50 }) // prettier-ignore
    for (const [id, layer] of Object.entries(told.build.layers)) if (id !== 'snow') layer.on = false
    Object.assign(bringLayer(told, plain(1, 1), 1, 'sheet', 9), { scale: 10 })
    const data = await pixels(told)
    let [mean, expected] = [0, 0]
    for (let i = 0; i < WIDTH * HEIGHT; i++) mean += Math.log(data[i * 4]!) / (WIDTH * HEIGHT)
    // Beer and Lambert: density by cross section, with its soft border, by the metres that are gone through
    const section = Math.PI * (0.005 ** 2 + (0.5 * 0.005) ** 2 / 3)
    const steps = 4000
    for (let i = 0; i < steps; i++) {
      const metres = 2 + ((i + 0.5) / steps) * 4
      const comes = (t: number): number => Math.min(1, Math.max(0, t)) ** 2 * (3 - 2 * Math.min(1, Math.max(0, t)))
      expected += ((30 * section * 4) / steps) * comes((metres - 2) / 1) * comes((6 - metres) / 1.5)
    }
    expect(Math.abs(-mean / expected - 1)).toBeLessThan(0.04)
  })
})

it('a fog bank before a ball is as thick whether or not something clear stands within it', async () => {
  const told = (clear: boolean) =>
    changed(d => {
      d.build.layers.shadow!.on = false
      addLayer(d, makeLayer('fogbank', { near: 2, far: 10, dense: 0.9, colour: [3, 0, 3] }))
      if (clear) for (const metres of [3.2, 3.6, 6]) bringLayer(d, plain(0, 0), 1, `clear${metres}`, metres)
    })
  const [without, within] = [await pixels(told(false)), await pixels(told(true))]
  const off = without.map((value, i) => Math.abs(value - within[i]!))
  // Of three: on the border of two things a pixel is shared by what is about it
  expect(Math.max(...off)).toBeLessThan(0.05)
  expect(off.filter(value => value > 2e-3).length / off.length).toBeLessThan(0.02)
})

describe('gradients and clouds', () => {
  /** Over white at 9 m, which alone is seen else. */
  const over = (kind: 'gradient' | 'clouds', change: Record<string, unknown>): ShotDocument =>
    shot(plain(0, 0), (element, d) => {
      only(d)
      element.on = false
      addLayer(d, makeLayer(kind, { distance: 5, ...change }))
      Object.assign(bringLayer(d, plain(1, 1), 1, 'sheet', 9), { scale: 10 })
    })
  const stops = {
    ...{ from_x: 8, from_y: 0, to_x: 40, to_y: 0, stops: '4' },
    ...{
      colour1: [1, 0, 0],
      colour2: [0, 0.5, 0],
      colour3: [0, 0, 0.25],
      colour4: [0.1, 0.2, 0.3],
      at2: 0.25,
      at3: 0.75,
    },
  }
  /** Straight from one to the next, by itself. */
  function expected(t: number): number[] {
    const at = [0, 0.25, 0.75, 1]
    const colours = [stops.colour1, stops.colour2, stops.colour3, stops.colour4]
    const held = Math.min(1, Math.max(0, t))
    const i = Math.min(
      2,
      at.findLastIndex(place => place <= held),
    )
    const part = (held - at[i]!) / (at[i + 1]! - at[i]!)
    return colours[i]!.map((channel, k) => channel + (colours[i + 1]![k]! - channel) * part)
  }
  it('go from each stop to the next along a line, and beyond its ends stay as they are there', async () => {
    const data = await pixels(over('gradient', stops))
    for (let x = 0; x < WIDTH; x++)
      for (let c = 0; c < 3; c++)
        expect(data[(7 * WIDTH + x) * 4 + c]!).toBeCloseTo(expected((x + 0.5 - 8) / 32)[c]!, 4)
  })
  it('go round a place, by how far away each pixel is', async () => {
    const data = await pixels(
      over('gradient', { ...stops, shape: 'round', from_x: 24, from_y: 16, to_x: 24, to_y: 26 }),
    )
    for (const [x, y] of [
      [24, 16],
      [30, 16],
      [18, 12],
      [2, 2],
    ] as const)
      for (let c = 0; c < 3; c++)
        expect(data[(y * WIDTH + x) * 4 + c]!).toBeCloseTo(expected(Math.hypot(x + 0.5 - 24, y + 0.5 - 16) / 10)[c]!, 4)
  })
  it('cover as much as each stop says, and a stop dragged past another is where it is', async () => {
    const data = await pixels(over('gradient', { ...stops, cover1: 0, cover2: 0, cover3: 0, cover4: 0 }))
    expect(data.filter((value, i) => i % 4 < 3 && Math.abs(value - 1) > 1e-4)).toHaveLength(0)
    const half = await pixels(over('gradient', { ...stops, stops: '2', colour1: [0, 0, 0], colour2: [0, 0, 0], cover1: 1, cover2: 0 })) // prettier-ignore
    for (const x of [10, 24, 36]) expect(half[(3 * WIDTH + x) * 4]!).toBeCloseTo((x + 0.5 - 8) / 32, 4)
    const swapped = await pixels(over('gradient', { ...stops, at2: 0.75, at3: 0.25, colour2: stops.colour3, colour3: stops.colour2 })) // prettier-ignore
    expect(swapped).toEqual(await pixels(over('gradient', stops)))
  })
  it('each stop between the ends is taken hold of on the line', () => {
    const { handles, values } = layerKindOf('gradient')
    const told = { ...(firstValues(values) as object), shape: 'straight', ...stops }
    const found = handles!(told, { camera: eye(), frame: { width: WIDTH, height: HEIGHT }, picture: undefined })!
    expect(found.grips.map(({ id, at }) => [id, ...at])).toEqual([
      ['from', 8, 0],
      ['to', 40, 0],
      ['at2', 16, 0],
      ['at3', 32, 0],
    ])
    expect(found.moved('at2', [24, 9])).toEqual({ at2: 0.5 })
    expect(found.moved('at3', [900, 9])).toEqual({ at3: 1 })
  })
  it('clouds are of one colour, of both, or of the other, by how much there is of it', async () => {
    const colours = { colour: [0.2, 0, 0], other: [0, 0.4, 0], other_cover: 0.5, cloud: 12 }
    const [none, half, all] = await Promise.all([0, 0.5, 1].map(much => pixels(over('clouds', { ...colours, much }))))
    for (let i = 0; i < WIDTH * HEIGHT; i += 37) {
      // Half of the white behind it, and half of its green
      expect([none![i * 4]!, none![i * 4 + 1]!].map(value => Number(value.toFixed(4)))).toEqual([0.5, 0.7])
      expect([all![i * 4]!, all![i * 4 + 1]!].map(value => Number(value.toFixed(4)))).toEqual([0.2, 0])
    }
    const greens = [...Array(WIDTH * HEIGHT).keys()].map(i => half![i * 4 + 1]!)
    expect(Math.min(...greens)).toBeLessThan(0.1)
    expect(Math.max(...greens)).toBeGreaterThan(0.6)
  })
})
