import { describe, expect, it } from 'vitest'
import {
  binMetres,
  fittedReach,
  movedReach,
  renderedReach,
  SOUNDED,
  SOUNDED_BINS,
  soundingTicks,
  zoomedReach,
} from './soundings'
import { lengthText } from '../text/metres'

const spreadAt = (...distances: number[]): Float32Array => {
  const spread = new Float32Array(SOUNDED_BINS)
  for (const metres of distances) {
    const bin = Math.floor((Math.log(metres / 0.05) / Math.log(50_000 / 0.05)) * SOUNDED_BINS)
    spread[bin]! += 100
  }
  return spread
}

describe('soundings', () => {
  it('a bin says its distance to a hundredth', () => {
    for (const metres of [0.051, 0.3, 7, 900, 49_000]) {
      const at = spreadAt(metres).findIndex(value => value > 0)
      expect(binMetres(at) / metres).toBeCloseTo(1, 1.7)
    }
  })
  it('what is rendered reaches over all but its nearest and farthest fiftieth', () => {
    const spread = new Float32Array(SOUNDED_BINS)
    for (let bin = 200; bin < 300; bin++) spread[bin] = 7
    const { near, far } = renderedReach(spread)!
    // To a bin
    expect(Math.abs(Math.log(near / binMetres(201.5)))).toBeLessThan(Math.log(binMetres(1) / binMetres(0)))
    expect(Math.abs(Math.log(far / binMetres(297.5)))).toBeLessThan(Math.log(binMetres(1) / binMetres(0)))
    // A few pixels somewhere else are not what is rendered
    spread[20] = 5
    spread[1100] = 5
    expect(renderedReach(spread)!.near).toBeGreaterThan(binMetres(200))
    expect(renderedReach(spread)!.far).toBeLessThan(binMetres(300))
  })
  for (const [name, low, high] of [
    ['a table top', 0.22, 0.61],
    ['a quay', 4, 60],
    ['mountains', 900, 41_000],
  ] as const)
    it(`${name}: the render from ${low} to ${high} m is in sight, and takes a good part of the width`, () => {
      const found = renderedReach(spreadAt(low, Math.sqrt(low * high), high))!
      expect(found.near / low).toBeCloseTo(1, 1)
      expect(found.far / high).toBeCloseTo(1, 1)
      const { near, far } = fittedReach(found, [])
      expect(near).toBeLessThan(low)
      expect(far).toBeGreaterThan(high)
      expect(Math.log(high / low) / Math.log(far / near)).toBeGreaterThan(0.45)
    })
  it('a few stray pixels do not stretch it, a layer far behind does', () => {
    const spread = spreadAt(2, 3)
    spread[SOUNDED_BINS - 1] = 1
    expect(renderedReach(spread)!.far).toBeLessThan(3.1)
    expect(fittedReach({ near: 2, far: 3 }, [5000]).far).toBeCloseTo(7500, 6)
    expect(renderedReach(new Float32Array(SOUNDED_BINS))).toBeUndefined()
    expect(fittedReach(undefined, [])).toEqual({ near: 0.5, far: 400 })
  })
  it('zooming keeps the place under the pointer, and nothing leaves 5 cm to 50 km', () => {
    let reach = fittedReach({ near: 2, far: 30 }, [])
    const share = (metres: number): number => Math.log(metres / reach.near) / Math.log(reach.far / reach.near)
    const before = share(7)
    reach = zoomedReach(reach, 7, 0.6)
    expect(share(7)).toBeCloseTo(before, 9)
    for (let i = 0; i < 40; i++) reach = zoomedReach(reach, 7, 1.5)
    expect(reach).toEqual({ near: expect.closeTo(0.05, 9), far: expect.closeTo(50_000, 3) })
    for (let i = 0; i < 60; i++) reach = zoomedReach(reach, 7, 0.5)
    expect(reach.far / reach.near).toBeCloseTo(1.3, 6)
    for (let i = 0; i < 200; i++) reach = movedReach(reach, 1)
    expect(reach.far).toBeCloseTo(SOUNDED.far, 3)
    expect(reach.far / reach.near).toBeCloseTo(1.3, 6)
  })
  it('ticks are round, in sight and not too many', () => {
    expect(soundingTicks({ near: 0.5, far: 400 }, 9)).toEqual([0.5, 1, 2, 5, 10, 20, 50, 100, 200])
    for (const reach of [
      { near: 0.05, far: 50_000 },
      { near: 7, far: 9.1 },
      { near: 0.2, far: 0.9 },
    ]) {
      const ticks = soundingTicks(reach, 12)
      expect(ticks.length).toBeGreaterThan(2)
      expect(ticks.length).toBeLessThan(13)
      for (const tick of ticks) expect(tick >= reach.near && tick <= reach.far).toBe(true)
    }
  })
  it('lengths are said in their unit', () => {
    expect([0.001, 0.0099, 0.05, 0.5, 1, 1.824, 47.2, 999, 1000, 50_000].map(metres => lengthText(metres))).toEqual([
      '1 mm',
      '9.9 mm',
      '5 cm',
      '50 cm',
      '1 m',
      '1.82 m',
      '47.2 m',
      '999 m',
      '1 km',
      '50 km',
    ])
  })
})
