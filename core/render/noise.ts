// How noisy a render is, from what its samples gave one by one and by halves.

import type { Halves, RenderedPasses } from './planes'

/** Samples of each pixel. */
type Counts = Uint32Array

/** Samples of each pixel that the light got. */
export const litCounts = ({ counts, limits: { light } }: RenderedPasses): Uint32Array =>
  light ? counts.map(count => Math.min(count, light)) : counts

/**
 * Means over a square of so many pixels to each side, of planes with interleaved channels; the picture's edge bounds
 * it.
 */
export function boxMean(
  plane: Float32Array,
  width: number,
  height: number,
  channels: number,
  radius: number,
): Float32Array {
  const rows = new Float32Array(plane.length)
  const out = new Float32Array(plane.length)
  // Running sums in float64: no error piles up along a row
  for (let y = 0; y < height; y++)
    for (let c = 0; c < channels; c++) {
      const row = y * width * channels + c
      let sum = 0
      for (let x = 0; x < Math.min(radius, width); x++) sum += plane[row + x * channels]!
      for (let x = 0; x < width; x++) {
        if (x + radius < width) sum += plane[row + (x + radius) * channels]!
        if (x - radius - 1 >= 0) sum -= plane[row + (x - radius - 1) * channels]!
        rows[row + x * channels] = sum / (Math.min(width - 1, x + radius) - Math.max(0, x - radius) + 1)
      }
    }
  const stride = width * channels
  const sums = new Float64Array(stride)
  for (let y = 0; y < Math.min(radius, height); y++) for (let i = 0; i < stride; i++) sums[i]! += rows[y * stride + i]!
  for (let y = 0; y < height; y++) {
    const enters = y + radius
    const leaves = y - radius - 1
    const count = Math.min(height - 1, enters) - Math.max(0, leaves + 1) + 1
    for (let i = 0; i < stride; i++) {
      if (enters < height) sums[i]! += rows[enters * stride + i]!
      if (leaves >= 0) sums[i]! -= rows[leaves * stride + i]!
      out[y * stride + i] = sums[i]! / count
    }
  }
  return out
}

/**
 * Variance of a mean by the difference of its halves: right on the whole, itself very noisy in one pixel. odd: mean of
 * every second sample.
 */
function byHalves(whole: Float32Array, odd: Float32Array, counts: Counts): Float32Array {
  const out = new Float32Array(whole.length)
  for (let i = 0; i < out.length; i++) {
    const samples = counts[Math.floor(i / 3)]!
    const odds = Math.floor(samples / 2)
    const evens = samples - odds
    if (samples < 2) continue
    // whole = (odd odds + even evens) / samples, so odd - whole = (odd - even) evens / samples
    const between = ((odd[i]! - whole[i]!) * samples) / evens
    out[i] = (between * between * odds * evens) / (samples * samples)
  }
  return out
}

/**
 * Variance of a mean in each pixel, RGB: that of the samples, put right by what the halves say about it, since samples
 * that avoid one another make a better mean than independent ones would. Below 2 samples nothing is known: 0.
 */
export function varianceOf(
  mean: Float32Array,
  { odd: kept, squares }: Halves,
  counts: Counts,
  width: number,
  height: number,
): Float32Array {
  const out = new Float32Array(mean.length)
  const odd = new Float32Array(mean.length)
  for (let i = 0; i < out.length; i++) {
    const samples = counts[Math.floor(i / 3)]!
    if (samples < 2) continue
    odd[i] = (kept[i]! * samples) / Math.floor(samples / 2)
    out[i] = Math.max(0, squares[i]! - mean[i]! ** 2) / (samples - 1)
  }
  // One ratio for the three colours, evened out over a neighbourhood
  const apart = byHalves(mean, odd, counts)
  const pair = new Float32Array(width * height * 2)
  for (let i = 0, at = 0; at < out.length; i += 2, at += 3) {
    pair[i] = apart[at]! + apart[at + 1]! + apart[at + 2]!
    pair[i + 1] = out[at]! + out[at + 1]! + out[at + 2]!
  }
  const around = boxMean(pair, width, height, 2, 8)
  for (let i = 0, at = 0; at < out.length; i += 2, at += 3) {
    const ratio = around[i + 1]! > 0 ? Math.min(2, Math.max(0.02, around[i]! / around[i + 1]!)) : 1
    out[at]! *= ratio
    out[at + 1]! *= ratio
    out[at + 2]! *= ratio
  }
  return out
}

/** Variance by halves alone, evened out over a few pixels. */
export const varianceByHalves = (
  mean: Float32Array,
  odd: Float32Array,
  counts: Counts,
  width: number,
  height: number,
  radius = 4,
): Float32Array => boxMean(byHalves(mean, odd, counts), width, height, 3, radius)

/**
 * Variance of one float a pixel as the pixels about it show it: where too few samples are there to tell it from. Counts
 * what the picture shows as noise too.
 */
export function varianceAround(plane: Float32Array, width: number, height: number, radius = 2): Float32Array {
  const pair = new Float32Array(plane.length * 2)
  for (let i = 0; i < plane.length; i++) {
    pair[i * 2] = plane[i]!
    pair[i * 2 + 1] = plane[i]! ** 2
  }
  const around = boxMean(pair, width, height, 2, radius)
  return plane.map((_, i) => Math.max(0, around[i * 2 + 1]! - around[i * 2]! ** 2))
}

/**
 * Which pixels are as quiet as asked: level is the standard deviation of the beauty's mean over its brightness (that of
 * dim ones counts as DIM). A pixel rests only when all about it are quiet, so that the few that know nothing of their
 * noise yet are not believed.
 */
export function quietPixels(
  beauty: Float32Array,
  variance: Float32Array,
  width: number,
  height: number,
  level: number,
): Uint8Array {
  const loud = new Float32Array(width * height)
  for (let i = 0; i < loud.length; i++) {
    const bright = Math.max(DIM, (beauty[i * 3]! + beauty[i * 3 + 1]! + beauty[i * 3 + 2]!) / 3)
    const noise = Math.sqrt((variance[i * 3]! + variance[i * 3 + 1]! + variance[i * 3 + 2]!) / 3)
    if (noise > level * bright) loud[i] = 1
  }
  return Uint8Array.from(boxMean(loud, width, height, 1, REST_RADIUS), value => (value > 1e-6 ? 0 : 1))
}
/** Scene-linear light below which noise is judged as if it were that bright: the eye sees no more of it. */
const DIM = 0.05
const REST_RADIUS = 3

/** The noise of a picture as one number: root mean square of each pixel's noise over its brightness. */
export function noiseLevel(beauty: Float32Array, variance: Float32Array): number {
  let sum = 0
  for (let i = 0; i < beauty.length; i++) sum += variance[i]! / Math.max(DIM, beauty[i]!) ** 2
  return Math.sqrt(sum / Math.max(1, beauty.length))
}
