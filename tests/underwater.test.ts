// Under water: light against the same integral summed up in steps.
import { describe, expect, it } from 'vitest'
import { placeAt } from '../core/match/project'
import type { ShotDocument } from '../core/shot/document'
import { addLayer, makeLayer } from '../core/shot/layers'
import { HEIGHT, WIDTH } from './buildShot'
import { across, eye, only, pixels, plain, shot } from './elementShot'

describe('under water', () => {
  const VALUES = {
    ...{ level: 4, absorbs: [0.4, 0.1, 0.05], colour: [0.1, 0.3, 0.4], dims: 0.5, floor: 'none', sky: 60, shafts: 0 },
  } as const
  /** Summed up over so many steps of the way, by itself. */
  function summed(grey: number, way: readonly number[], metres: number, c: number): number {
    const [s, k] = [VALUES.absorbs[c]!, VALUES.absorbs[c]! * VALUES.dims]
    const eye = eyeHeight()
    const rise = way[1]!
    const long = rise > 1e-4 ? Math.min(metres, (VALUES.level - eye) / rise) : metres
    const steps = 20000
    let sum = 0
    for (let i = 0; i < steps; i++) {
      const t = ((i + 0.5) / steps) * long
      sum += s * VALUES.colour[c]! * Math.exp(-s * t - k * (VALUES.level - eye - rise * t)) * (long / steps)
    }
    return sum + grey * Math.exp(-s * long - k * Math.max(0, VALUES.level - eye - rise * long))
  }
  const eyeHeight = (): number => eye().matrix[13]!
  const rayAt = (x: number, y: number): { way: number[]; long: number } => {
    const place = placeAt(eye(), WIDTH / HEIGHT, (x + 0.5) / WIDTH, (y + 0.5) / HEIGHT, 1)
    const way = place.map((value, i) => value - eye().matrix[12 + i]!)
    const long = Math.hypot(...way)
    return { way: way.map(value => value / long), long }
  }
  const under = (change: Record<string, unknown> = {}): ShotDocument =>
    shot(plain(0.6, 1), (element, d) => {
      only(d)
      Object.assign(element, across(5))
      addLayer(d, makeLayer('underwater', { ...VALUES, ...change }))
    })
  it('takes and sends light by distance and depth, as steps of the way do, summed up', async () => {
    const data = await pixels(under())
    for (const [x, y] of [
      [24, 16],
      [3, 2],
      [45, 30],
      [24, 1],
    ] as const) {
      const { way, long } = rayAt(x, y)
      for (const c of [0, 1, 2]) expect(data[(y * WIDTH + x) * 4 + c]).toBeCloseTo(summed(0.6, way, 5 * long, c), 3)
    }
  })
  it('the plate has a floor, where that is said: as far away as rays meet it', async () => {
    const told = await pixels(
      shot(plain(0, 1), (element, d) => {
        only(d)
        element.on = false
        addLayer(d, makeLayer('underwater', { ...VALUES, floor: 'level', floor_at: -0.5 }))
      }),
    )
    for (const [x, y] of [
      [10, 28],
      [40, 20],
    ] as const) {
      const { way } = rayAt(x, y)
      const metres = (-0.5 - eyeHeight()) / way[1]!
      expect(metres).toBeGreaterThan(1)
      expect(metres).toBeLessThan(VALUES.sky)
      for (const c of [0, 1, 2]) expect(told[(y * WIDTH + x) * 4 + c]).toBeCloseTo(summed(0, way, metres, c), 3)
    }
    const above = rayAt(24, 1).way
    expect(above[1]).toBeGreaterThan(0)
    for (const c of [0, 1, 2]) expect(told[(1 * WIDTH + 24) * 4 + c]).toBeCloseTo(summed(0, above, VALUES.sky, c), 3)
  })
  it('where nothing stands it is as far as is said, and ends at the surface', async () => {
    const data = await pixels(under({ level: 2.2 }))
    const told = await pixels(
      shot(plain(0, 1), (element, d) => {
        only(d)
        element.on = false
        addLayer(d, makeLayer('underwater', VALUES))
      }),
    )
    const { way } = rayAt(10, 20)
    for (const c of [0, 1, 2]) expect(told[(20 * WIDTH + 10) * 4 + c]).toBeCloseTo(summed(0, way, VALUES.sky, c), 3)
    // A ray that leaves the water soon has lost little
    const up = (1 * WIDTH + 24) * 4
    expect(data[up]!).toBeGreaterThan((await pixels(under()))[up]!)
  })
  it('shafts move with time, the mean stays; only where its slip says', async () => {
    const [even, first, later] = [
      await pixels(under()),
      await pixels(under({ shafts: 0.8, speed: 2 })),
      await pixels(under({ shafts: 0.8, speed: 2 }), 20),
    ]
    expect(first).not.toEqual(later)
    const mean = (data: Float32Array): number => data.reduce((sum, value, i) => (i % 4 === 2 ? sum + value : sum), 0)
    expect(mean(first) / mean(even)).toBeGreaterThan(0.8)
    expect(mean(first) / mean(even)).toBeLessThan(1.2)
    const half = under({ opacity: 0.5 })
    const whole = await pixels(half)
    const dry = await pixels(
      shot(plain(0.6, 1), (element, d) => {
        only(d)
        Object.assign(element, across(5))
      }),
    )
    whole.forEach((value, i) => expect(value).toBeCloseTo((even[i]! + dry[i]!) / 2, 4))
  })
})
