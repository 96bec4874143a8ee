// How sharp a picture is: how wide its sharpest edges are spread. As ISO 12233 takes the edge spread of a slanted
// edge, here from the edges that a picture happens to have: along rows and columns across them, cut at where they have
// become flat.
import { luminance } from '../colour/luminance'
import type { Box } from '../engine/box'

/** One edge: its place, and the standard deviation of the softness across it, pixels. */
export interface Edge {
  x: number
  y: number
  sigma: number
}
/** Pixels to each side within which an edge must have become flat. */
const REACH = 12
/** Of its step a pixel changes less than this where an edge is over, so often after one another. */
const FLAT = 0.06
const FLAT_PIXELS = 2
/** The step as a share of the light on both sides together, at least. */
const LEAST_STEP = 0.12
/** The steepest place of an edge has so much slope beside its light, at least; and the step so many times the noise. */
const LEAST_SLOPE = 0.02
const LEAST_OVER_NOISE = 12
/** An edge that lies askew by more is looked at along the other way. */
const MOST_SLANT = 1.1
/** Fewer edges say nothing. */
export const LEAST_EDGES = 20

/** Light of each pixel of premultiplied RGBA; NaN where a picture covers little or a mask does not hold. */
export function lightPlane(pixels: Float32Array, mask?: Uint8Array): Float32Array {
  const light = new Float32Array(pixels.length / 4).fill(NaN)
  for (let i = 0; i < light.length; i++) {
    const alpha = pixels[i * 4 + 3]!
    if (alpha > 0.5 && (!mask || mask[i]))
      light[i] = luminance(pixels[i * 4]!, pixels[i * 4 + 1]!, pixels[i * 4 + 2]!) / alpha
  }
  return light
}

/** light: of each pixel, rows of `width`; what is NaN is no part of an edge. */
export function edgesOf(light: Float32Array, width: number): Edge[] {
  const height = Math.floor(light.length / width)
  const edges: Edge[] = []
  const noise = noiseIn(light)
  for (const [step, across] of [
    [1, width],
    [width, 1],
  ] as const) {
    const [alongEnd, acrossEnd] = step === 1 ? [width, height] : [height, width]
    // Every third row or column: each looks at its neighbours, too
    for (let row = ROWS + 2; row < acrossEnd - ROWS - 2; row += 3)
      for (let at = 2; at < alongEnd - 2; at++) {
        const i = row * across + at * step
        const slope = light[i + step]! - light[i - step]!
        const size = Math.abs(slope)
        // The steepest place of it
        if (
          !(size > Math.abs(light[i]! - light[i - 2 * step]!)) ||
          !(size >= Math.abs(light[i + 2 * step]! - light[i]!))
        )
          continue
        if (!(size > LEAST_SLOPE * Math.abs(light[i]!)) || !(size > 4 * noise)) continue
        const sideways = slantAt(light, i, step, across)
        if (!(Math.abs(sideways) < MOST_SLANT)) continue
        const variance = varianceAlong(light, { i, step, across, at, end: alongEnd, sideways }, noise)
        if (variance === undefined) continue
        const [x, y] = step === 1 ? [at, row] : [row, at]
        edges.push({ x, y, sigma: Math.sqrt(variance) / Math.hypot(1, sideways) })
      }
  }
  return edges
}

/** Deviation of what has no order: the lower quarter of what differs from the mean of both neighbours. */
function noiseIn(light: Float32Array): number {
  const found: number[] = []
  const step = Math.max(1, Math.floor(light.length / 40000))
  for (let i = 1; i < light.length - 1; i += step) {
    const off = Math.abs(light[i]! - (light[i - 1]! + light[i + 1]!) / 2)
    if (off >= 0) found.push(off)
  }
  found.sort((a, b) => a - b)
  // A quarter of a bell lies within 0.319 of its deviations; the difference has the root of 1.5 of that of a pixel
  return found.length ? found[Math.floor(found.length / 4)]! / 0.319 / Math.sqrt(1.5) : 0
}

/** Pixels that an edge goes on by along itself for each across it: by least squares about a place. */
function slantAt(light: Float32Array, i: number, step: number, across: number): number {
  let [both, square] = [0, 0]
  for (let row = -2; row <= 2; row++)
    for (let along = -1; along <= 1; along++) {
      const j = i + row * across + along * step
      const slope = light[j + step]! - light[j - step]!
      both += slope * (light[j + across]! - light[j - across]!)
      square += slope * slope
    }
  return both / square
}

interface Place {
  i: number
  step: number
  across: number
  /** Where it is along its row or column, and how long that is. */
  at: number
  end: number
  sideways: number
}
/** Rows to each side that are taken together, each shifted as the edge lies askew. */
const ROWS = 3
/** Variance along a row or column of the edge there; undefined where that is no edge between two flats. */
function varianceAlong(
  light: Float32Array,
  { i, step, across, at, end, sideways }: Place,
  noise: number,
): number | undefined {
  const reach = REACH + Math.ceil(ROWS * MOST_SLANT) + 1
  if (at < reach || at >= end - reach) return undefined
  /** What taking values between two pixels spreads by, the mean of all rows. */
  let between = 0
  const shifts = Array.from({ length: 2 * ROWS + 1 }, (_, n) => {
    // Where the same light lies in the other row
    const shift = -(n - ROWS) * sideways
    const whole = Math.floor(shift)
    const part = shift - whole
    between += (part * (1 - part)) / (2 * ROWS + 1)
    return { from: i + (n - ROWS) * across + whole * step, part }
  })
  const profile = new Float64Array(2 * REACH + 1)
  for (const { from, part } of shifts)
    for (let k = 0; k < profile.length; k++) {
      const j = from + (k - REACH) * step
      profile[k]! += (light[j]! * (1 - part) + light[j + step]! * part) / shifts.length
    }
  const sign = Math.sign(profile[REACH + 1]! - profile[REACH - 1]!)
  // What is left of the noise of a difference of two means
  const quiet = (2 * noise * Math.SQRT2) / Math.sqrt(shifts.length)
  /** How far it goes on, until it has been flat for some pixels; undefined where it does not end, or turns back. */
  const goes = (way: 1 | -1): number | undefined => {
    let flat = 0
    for (let k = 1; k <= REACH; k++) {
      const change = sign * way * (profile[REACH + way * k]! - profile[REACH + way * (k - 1)]!)
      if (Number.isNaN(change)) return undefined
      const sofar = Math.abs(profile[REACH + way * k]! - profile[REACH - way]!)
      if (Math.abs(change) < Math.max(quiet, FLAT * sofar)) {
        if (++flat === FLAT_PIXELS) return k
      } else if (change < 0) return undefined
      else flat = 0
    }
    return undefined
  }
  const [after, before] = [goes(1), goes(-1)]
  if (after === undefined || before === undefined) return undefined
  const [low, high] = [profile[REACH - before]!, profile[REACH + after]!]
  const rise = Math.abs(high - low)
  if (!(rise > LEAST_STEP * (Math.abs(low) + Math.abs(high))) || !(rise > LEAST_OVER_NOISE * noise)) return undefined
  // Moments of what it changes by: its mean is where the edge is, its spread how soft it is
  let [sum, first, second] = [0, 0, 0]
  for (let k = REACH - before; k < REACH + after; k++) {
    const change = profile[k + 1]! - profile[k]!
    sum += change
    first += change * (k + 0.5)
    second += change * (k + 0.5) ** 2
  }
  // What differs from one pixel to the next is itself a mean over one pixel
  return Math.max(0, second / sum - (first / sum) ** 2 - 1 / 12 - between)
}

/** What the sharpest quarter of the edges is spread by, pixels; undefined where there are too few of them. */
export function sharpnessOf(edges: readonly Edge[], window?: Box): number | undefined {
  const sigmas = edges
    .filter(({ x, y }) => !window || (x >= window.left && x < window.right && y >= window.top && y < window.bottom))
    .map(({ sigma }) => sigma)
    .sort((a, b) => a - b)
  return sigmas.length < LEAST_EDGES ? undefined : sigmas[Math.floor(sigmas.length / 4)]
}
