// Grain of a picture, measured from what is flat in it. (C. Liu et al., "Noise Estimation from a Single Image", CVPR
// 2006 take the lower envelope over brightness, too; how it is done here is own.)

import { luminance, MIDDLE_GREY } from '../colour/luminance'

/** What the treatment “grain” lays: the model that is fitted. */
export interface GrainMeasured {
  /** Standard deviation at middle grey, as a share of it. */
  amount: number
  /** Of each channel, beside their mean. */
  channels: [number, number, number]
  /** Power of the light that it grows with. */
  growth: number
  /** Standard deviation of one grain, pixels. */
  size: number
  /** Correlation of the channels. */
  together: number
}
/** Squares that are looked at, pixels across. */
const SIDE = 24
/** Of the squares of a brightness the flattest count, and none in which so much of what varies is no grain. */
const FLATTEST = 0.5
const ROUGHEST = 0.6
const BINS = 12
const MOST_SQUARES = 6000

interface Square {
  light: number
  /** How much of what varies is a slope, or goes on alike: no grain. */
  roughness: number
  variances: [number, number, number]
  means: [number, number, number]
  /** Products of channels: red green, green blue, blue red. */
  mixed: [number, number, number]
  /** Of neighbours, as a share of the variance. */
  beside: number
}

/**
 * pixels: scene-linear premultiplied RGBA, rows of `width`. calmest: only of what varies little beside the calmest of
 * its brightness, where a picture may have fine texture all over and nobody looked for what is flat. Undefined where
 * nothing is flat enough to tell.
 */
export function grainOf(pixels: Float32Array, width: number, calmest = false): GrainMeasured | undefined {
  const height = Math.floor(pixels.length / 4 / width)
  const squares: Square[] = []
  let [soft, all] = [0, 0]
  // Of a large picture as many squares do as of a small one, evenly over it
  const step = SIDE * Math.ceil(Math.sqrt((width * height) / (SIDE * SIDE * MOST_SQUARES)))
  for (let top = 0; top + SIDE <= height; top += step)
    for (let left = 0; left + SIDE <= width; left += step) {
      const square = squareAt(pixels, width, left, top)
      if (!square) continue
      all++
      if (square.beside > SMOOTH) soft++
      if (square.roughness < ROUGHEST) squares.push(square)
    }
  // Slopes everywhere, and nothing on them
  if (squares.length < 4) return calmest && all >= 4 && soft > all / 2 ? NO_GRAIN : undefined
  const lights = squares.map(({ light }) => Math.log(light))
  const [least, most] = [Math.min(...lights), Math.max(...lights)]
  const chosen: Square[] = []
  let [grainy, smooth] = [0, 0]
  for (let bin = 0; bin < BINS; bin++) {
    const inIt = squares
      .filter(
        (_, i) => Math.min(BINS - 1, Math.floor(((lights[i]! - least) / Math.max(1e-6, most - least)) * BINS)) === bin,
      )
      .sort((a, b) => a.roughness - b.roughness)
    const flattest = inIt.slice(0, Math.max(Math.min(4, inIt.length), Math.ceil(inIt.length * FLATTEST)))
    const fine = calmest ? flattest.filter(({ beside }) => beside < SMOOTH) : flattest
    // Grain is everywhere in a picture: where something of a brightness has none, what varies there is texture
    if (flattest.length - fine.length > flattest.length * SMOOTH_SHARE) smooth += flattest.length
    else grainy += flattest.length
    chosen.push(...(calmest ? calm(fine) : fine))
  }
  if (smooth > grainy) return NO_GRAIN
  return fitted(chosen)
}

/**
 * What goes on so much alike from pixel to pixel is no grain, but a soft picture; where that is so much of what is
 * flat.
 */
const SMOOTH = 0.9
const SMOOTH_SHARE = 0.15
/** Of a picture without; its other values are as usual as any. */
export const NO_GRAIN: GrainMeasured = { amount: 0, channels: [1, 1, 1], growth: 0.5, size: 0.7, together: 0.3 }

/** Squares that vary no more than the calmest of them and chance together: the same grain is in all of a brightness. */
const CALM = 1.8
function calm(squares: readonly Square[]): Square[] {
  const varies = ({ light, variances: [r, g, b] }: Square): number => (r + g + b) / light
  if (!squares.length) return []
  const calmest = squares.map(varies).sort((a, b) => a - b)[Math.floor(squares.length / 10)]!
  return squares.filter(square => varies(square) <= calmest * CALM)
}

function squareAt(pixels: Float32Array, width: number, left: number, top: number): Square | undefined {
  const count = SIDE * SIDE
  const planes = [0, 1, 2].map(() => new Float64Array(count))
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++) {
      const at = ((top + y) * width + left + x) * 4
      const alpha = pixels[at + 3]!
      if (!(alpha > 0.99)) return undefined
      for (let c = 0; c < 3; c++) {
        const value = pixels[at + c]! / alpha
        if (!Number.isFinite(value)) return undefined
        planes[c]![y * SIDE + x] = value
      }
    }
  const means = planes.map(plane => plane.reduce((sum, value) => sum + value, 0) / count) as Square['means']
  const light = luminance(...means)
  if (!(light > 1e-4)) return undefined
  const slopes = planes.map((plane, c) => withoutSlope(plane, means[c]!))
  const products = (a: Float64Array, b: Float64Array): number =>
    a.reduce((sum, value, i) => sum + value * b[i]!, 0) / count
  const [r, g, b] = planes as [Float64Array, Float64Array, Float64Array]
  const variances = planes.map(plane => products(plane, plane)) as Square['variances']
  const shifted = (plane: Float64Array, by: number): number => {
    let sum = 0
    for (let y = 0; y < SIDE; y++)
      for (let x = 0; x + by < SIDE; x++)
        sum += plane[y * SIDE + x]! * plane[y * SIDE + x + by]! + plane[x * SIDE + y]! * plane[(x + by) * SIDE + y]!
    return sum / (2 * SIDE * (SIDE - by))
  }
  const total = variances[0] + variances[1] + variances[2]
  const summed = (by: number): number => planes.reduce((sum, plane) => sum + shifted(plane, by), 0)
  return {
    light,
    // What has a slope, or goes on alike over more pixels than a grain, is no flat; how much varies at all does not
    // count, or those would be chosen whose grain is less by chance
    roughness:
      (slopes.reduce((sum, slope) => sum + slope, 0) +
        Math.abs(summed(6)) +
        Math.abs(summed(8)) +
        Math.abs(summed(10))) /
      Math.max(1e-30, total),
    variances,
    means,
    mixed: [products(r, g), products(g, b), products(b, r)],
    beside: summed(1) / Math.max(1e-30, total),
  }
}

/** Takes the mean and the plane through a square out of it; what the plane alone varied. */
function withoutSlope(plane: Float64Array, mean: number): number {
  const middle = (SIDE - 1) / 2
  let [sx, sy] = [0, 0]
  plane.forEach((value, i) => {
    sx += (value - mean) * ((i % SIDE) - middle)
    sy += (value - mean) * (Math.floor(i / SIDE) - middle)
  })
  const square = (SIDE * SIDE * (SIDE * SIDE - 1)) / 12
  const [a, b] = [sx / square, sy / square]
  plane.forEach((value, i) => {
    plane[i] = value - mean - a * ((i % SIDE) - middle) - b * (Math.floor(i / SIDE) - middle)
  })
  return ((a * a + b * b) * (SIDE * SIDE - 1)) / 12
}

function fitted(squares: readonly Square[]): GrainMeasured | undefined {
  // Logarithm of the deviation over that of the light, all channels, by least squares; each its own height
  let [n, sx, sy, sxx, sxy] = [0, 0, 0, 0, 0]
  for (const { means, variances } of squares)
    for (let c = 0; c < 3; c++) {
      if (!(means[c]! > 1e-4) || !(variances[c]! > 1e-14)) continue
      const [x, y] = [Math.log(means[c]! / MIDDLE_GREY), Math.log(variances[c]!) / 2]
      n++
      sx += x
      sy += y
      sxx += x * x
      sxy += x * y
    }
  if (n < 6) return undefined
  const spread = sxx - (sx * sx) / n
  // One brightness alone says nothing of how it grows: as light itself does
  const growth = spread / n > 0.02 ? Math.max(0, Math.min(2, (sxy - (sx * sy) / n) / spread)) : 0.5
  const mean = (of: (square: Square) => number): number =>
    squares.reduce((sum, one) => sum + of(one), 0) / squares.length
  const { size, left } = sizeAndLeft(mean(({ beside }) => beside))
  const heights = [0, 1, 2].map(c => {
    // The middle one: what is no grain after all is among the largest
    const found = squares
      .filter(({ means }) => means[c]! > 1e-4)
      .map(({ means, variances }) => variances[c]! / (means[c]! / MIDDLE_GREY) ** (2 * growth))
      .sort((a, b) => a - b)
    return found.length ? Math.sqrt(found[found.length >> 1]! / left) / MIDDLE_GREY : 0
  })
  const amount = (heights[0]! + heights[1]! + heights[2]!) / 3
  if (!(amount > 0)) return undefined
  const together = mean(({ mixed, variances: [r, g, b] }) => {
    const pairs = [mixed[0] / Math.sqrt(r * g), mixed[1] / Math.sqrt(g * b), mixed[2] / Math.sqrt(b * r)]
    return pairs.reduce((sum, pair) => sum + (Number.isFinite(pair) ? pair : 0), 0) / 3
  })
  return {
    amount,
    channels: heights.map(height => height / amount) as [number, number, number],
    growth,
    size,
    together: Math.max(0, Math.min(1, together)),
  }
}

/** Taps of a bell, summed over those so far apart times each other, over those at the same place. */
function alike(sigma: number, apart: number): number {
  const reach = Math.max(1, Math.ceil(sigma * 4))
  const tap = (x: number): number => (Math.abs(x) > reach ? 0 : Math.exp(-(x * x) / (2 * sigma * sigma)))
  let [own, other] = [0, 0]
  for (let x = -reach; x <= reach; x++) {
    own += tap(x) * tap(x)
    other += tap(x) * tap(x + apart)
  }
  return other / own
}
const NARROWEST = 0.15
const WIDEST = 6
/** Deviation of the bell whose neighbours are so alike. */
function sizeOf(beside: number): number {
  if (beside <= alike(NARROWEST, 1)) return 0
  let [low, high] = [NARROWEST, WIDEST]
  for (let i = 0; i < 40; i++) {
    const middle = (low + high) / 2
    if (alike(middle, 1) < beside) low = middle
    else high = middle
  }
  return (low + high) / 2
}
/**
 * The same of squares whose mean and slopes were taken out, and how much of the variance that left: each of the three
 * takes as much of it as so many pixels as are alike have of the square.
 */
function sizeAndLeft(beside: number): { size: number; left: number } {
  let [size, left] = [sizeOf(beside), 1]
  for (let i = 0; i < 8; i++) {
    let line = 1
    for (let apart = 1; apart < SIDE; apart++) line += 2 * (size < NARROWEST ? 0 : alike(size, apart))
    left = Math.max(0.3, 1 - (3 * line * line) / (SIDE * SIDE))
    size = sizeOf(beside * left + (1 - left))
  }
  return { size, left }
}
