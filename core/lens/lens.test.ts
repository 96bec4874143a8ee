// Circles of confusion and openings against formulas of optics. Formulas from memory: S. F. Ray, "Applied Photographic
// Optics" (hyperfocal distance, depth of field); moments of regular polygons as in handbooks of mechanics.
import { describe, expect, it } from 'vitest'
import type { TakeOfDistance } from '../treatment/treatment'
import { treatmentOf } from '../treatment/registry'
import { apertureKernel, brightnessAt, cornerOf, reachOf, ROUND, type Aperture } from './aperture'
import { circleAtInfinity, circleSteps, circleTable, distanceOfCircle, halvingsFor, STEP_WORDS } from './focus'

describe('the circle of confusion', () => {
  const camera = { focalLength: 50, sensorWidth: 36 }
  it('at the hyperfocal distance f² / (N c) what is at infinity is as large as c', () => {
    // Worked example: 50 mm at f/8, c = 0.03 mm: 10.42 m
    const hyperfocal = (50 * 50) / (8 * 0.03) / 1000
    expect(hyperfocal).toBeCloseTo(10.4167, 3)
    const radius = circleAtInfinity(camera, 8, hyperfocal, 3600)
    expect((2 * radius * 36) / 3600).toBeCloseTo(0.03, 9)
  })
  it('reaches c at the near and far ends H s / (H + s), H s / (H - s) of the depth of field', () => {
    const [s, N, c] = [3, 4, 0.03]
    const H = 2500 / (N * c) / 1000
    const pixels = ((c / 2) * 1920) / 36
    const atInfinity = circleAtInfinity(camera, N, s, 1920)
    expect(distanceOfCircle(pixels, atInfinity, s)).toBeCloseTo((H * s) / (H - s), 9)
    expect(distanceOfCircle(-pixels, atInfinity, s)).toBeCloseTo((H * s) / (H + s), 9)
  })
  it('goes with the width of the picture and the factor, against the f-number and the distance', () => {
    const one = circleAtInfinity(camera, 2, 4, 1000)
    expect(circleAtInfinity(camera, 2, 4, 500)).toBeCloseTo(one / 2, 12)
    expect(circleAtInfinity(camera, 4, 4, 1000)).toBeCloseTo(one / 2, 12)
    expect(circleAtInfinity(camera, 2, 8, 1000)).toBeCloseTo(one / 2, 12)
    expect(circleAtInfinity(camera, 2, 4, 1000, 3)).toBeCloseTo(one * 3, 12)
  })
})

describe('a click on the nearest or farthest that should be sharp', () => {
  const [, nearest, farthest] = treatmentOf('focus').takes as TakeOfDistance[]
  const seen = { camera: { focalLength: 50, sensorWidth: 36 }, width: 1920 }
  /** Radius of the circle at a distance, pixels. */
  const circle = ({ distance, fNumber }: Record<string, number>, factor: number, at: number): number =>
    Math.abs(circleAtInfinity(seen.camera, fNumber!, distance!, seen.width, factor) * (1 - distance! / at))
  it('makes both ends of what is sharp alike, and leaves the other end where it is', () => {
    const held = { distance: 5, fNumber: 2, factor: 1.5 }
    const before = circleAtInfinity(seen.camera, 2, 5, 1920, 1.5)
    const far = distanceOfCircle(0.75, before, 5)
    const found = nearest!.metres(4.2, held, seen) as Record<string, number>
    expect(circle(found, 1.5, 4.2)).toBeCloseTo(0.75, 6)
    expect(circle(found, 1.5, far)).toBeCloseTo(0.75, 6)
    const wider = farthest!.metres(20, { ...held, ...found }, seen) as Record<string, number>
    expect(circle(wider, 1.5, 4.2)).toBeCloseTo(0.75, 6)
    expect(circle(wider, 1.5, 20)).toBeCloseTo(0.75, 6)
    expect(wider.fNumber).toBeGreaterThan(found.fNumber!)
  })
  it('keeps to f-numbers that there are', () => {
    for (const [take, metres] of [
      [nearest, 0.02],
      [nearest, 1e5],
      [farthest, 1e5],
      [farthest, 0.01],
    ] as const)
      for (const fNumber of [0.1, 2, 128]) {
        const found = take!.metres(metres, { distance: 5, fNumber, factor: 1 }, seen) as Record<string, number>
        expect(found.fNumber).toBeGreaterThanOrEqual(0.1)
        expect(found.fNumber).toBeLessThanOrEqual(128)
        expect(found.distance).toBeGreaterThan(0)
        expect(found.distance).toBeLessThan(1e6)
      }
  })
})

describe('the opening', () => {
  const moments = (aperture: Aperture, cells: number): { x: number; y: number; xx: number; yy: number } => {
    const { half, weights } = apertureKernel(aperture, cells)
    const sum = { x: 0, y: 0, xx: 0, yy: 0 }
    for (let row = -half; row <= half; row++)
      for (let column = -half; column <= half; column++) {
        const weight = weights[(row + half) * (2 * half + 1) + column + half]!
        const [x, y] = [column / cells, -row / cells]
        sum.x += weight * x
        sum.y += weight * y
        sum.xx += weight * x * x
        sum.yy += weight * y * y
      }
    return sum
  }
  /** What square cells add to a second moment. */
  const cell = (cells: number): number => 1 / 12 / cells / cells
  it.each([0, 3, 5, 6, 8])(
    'of %i blades lets as much light through as a round one, and has its handbook moments',
    blades => {
      const aperture = { ...ROUND, blades }
      let area = 0
      const side = 400
      for (let i = 0; i < side * side; i++) {
        const [x, y] = [((i % side) + 0.5) / side, (Math.floor(i / side) + 0.5) / side]
        area += brightnessAt(aperture, (x - 0.5) * 4, (y - 0.5) * 4) * (4 / side) ** 2
      }
      expect(area).toBeCloseTo(Math.PI, 1.5)
      // A disc: r²/4 about any line through its middle; a regular polygon: R² (2 + cos 2π/n) / 12
      const R = cornerOf(blades)
      const own = blades ? (R * R * (2 + Math.cos((2 * Math.PI) / blades))) / 12 : 0.25
      const { x, y, xx, yy } = moments(aperture, 12)
      expect(Math.abs(x)).toBeLessThan(0.004)
      expect(Math.abs(y)).toBeLessThan(0.004)
      expect(Math.abs(xx - own - cell(12))).toBeLessThan(0.004)
      expect(Math.abs(yy - own - cell(12))).toBeLessThan(0.004)
    },
  )
  it('a corner points to the right, and is turned to the left', () => {
    const corner = cornerOf(3)
    for (const turn of [0, 40, 90]) {
      const angle = (turn * Math.PI) / 180
      const aperture = { ...ROUND, blades: 3, turn }
      const at = (far: number): number => brightnessAt(aperture, far * Math.cos(angle), far * Math.sin(angle))
      expect(at(corner * 0.99)).toBe(1)
      expect(at(corner * 1.01)).toBe(0)
      // Opposite it the middle of a side, half as far away
      expect(at(-corner * 0.49)).toBe(1)
      expect(at(-corner * 0.51)).toBe(0)
    }
  })
  it('squeezed it is taller than wide, of the same area; its rim takes nothing from the whole', () => {
    const tall = moments({ ...ROUND, squeeze: 2 }, 12)
    expect(Math.sqrt((tall.yy - cell(12)) / (tall.xx - cell(12)))).toBeCloseTo(2, 1)
    expect(reachOf({ ...ROUND, squeeze: 2 })).toBeCloseTo(Math.SQRT2, 12)
    // ∫ r² (1 + rim (2 r² - 1)) r dr over ∫ r dr, halved: 1/4 + rim/12
    const bright = moments({ ...ROUND, rim: 1 }, 12)
    expect(Math.abs(bright.xx - cell(12) - (1 / 4 + 1 / 12))).toBeLessThan(0.004)
  })
})

it('steps go up to the largest circle and no farther, by halves as far as a kernel stays small', () => {
  for (const largest of [0.3, 1, 1.7, 29, 400]) {
    const steps = circleSteps(largest)
    expect(steps[0]).toBe(0)
    expect(steps.at(-1)).toBe(largest)
    for (let i = 4; i < steps.length; i++) expect(steps[i]! / steps[i - 1]!).toBeLessThanOrEqual(1.34)
    const table = circleTable(ROUND, steps)
    steps.forEach((radius, i) => {
      const [own, halvings, half, at] = table.subarray(i * STEP_WORDS, (i + 1) * STEP_WORDS)
      expect(own).toBeCloseTo(radius, 4)
      expect(halvings).toBe(halvingsFor(radius))
      expect(half).toBeLessThanOrEqual(9)
      const sum = table.subarray(at, at! + (2 * half! + 1) ** 2).reduce((total, weight) => total + weight, 0)
      expect(sum).toBeCloseTo(1, 5)
    })
  }
})
