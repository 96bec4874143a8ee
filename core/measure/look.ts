// What the tones and colours of a picture are like, all over or in a window of it, of what a mask holds: in OKLab (B.
// Ottosson 2020) and in stops.
import { LUMINANCE, MIDDLE_GREY } from '../colour/luminance'
import { TO_CONES, TO_LAB } from '../colour/oklab'
import type { Box } from '../engine/box'

/**
 * Of each pixel lightness, a, b of OKLab and the stop of its light; what is not looked at, or no number, has no
 * lightness.
 */
export interface Toned {
  width: number
  height: number
  light: Float32Array
  a: Float32Array
  b: Float32Array
  stop: Float32Array
}
/** Lightness 0 black, 1 white; colours as a and b; contrast in stops. */
export interface Look {
  /** Pixels that were looked at. */
  count: number
  /** Lightness that a hundredth is darker, or lighter, than. */
  blacks: number
  whites: number
  /** Stops between what a tenth is darker and a tenth is lighter than. */
  contrast: number
  /** Mean strength of the colours (chroma). */
  colourfulness: number
  /** Mean a, b of the darkest and the lightest fifth, */
  shadows: [number, number]
  lights: [number, number]
  /** how light they are (mean lightness), the stops that they end and begin at, and the stop of the middle pixel. */
  shadowLight: number
  lightLight: number
  dark: number
  bright: number
  middle: number
}
/** Ends that count as black and as white, ends of contrast, and what is shadow and light. */
const END = 0.01
const TENTH = 0.1
const FIFTH = 0.2
/** Fewer pixels say nothing. */
export const LEAST_PIXELS = 200
/** Light is counted from so many stops under middle grey: what is as good as black has no contrast of its own. */
const DARKEST_STOP = -10

/**
 * pixels: scene-linear premultiplied RGBA, rows of `width`; mask: what is looked at, above 0; all where none is given.
 */
export function tonedOf(pixels: Float32Array, width: number, mask?: Uint8Array): Toned {
  const count = pixels.length / 4
  const [light, a, b, stop] = [0, 1, 2, 3].map(() => new Float32Array(count)) as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ]
  const [red, green, blue] = LUMINANCE
  const [lr, lg, lb, mr, mg, mb, sr, sg, sb] = TO_CONES
  for (let i = 0; i < count; i++) {
    const alpha = pixels[i * 4 + 3]!
    light[i] = NaN
    if (!(alpha > 0.5) || (mask && !mask[i])) continue
    const [r, g, blueLight] = [pixels[i * 4]! / alpha, pixels[i * 4 + 1]! / alpha, pixels[i * 4 + 2]! / alpha]
    // As oklabOf has it, without a list for each pixel
    const long = Math.cbrt(r * lr! + g * lg! + blueLight * lb!)
    const middle = Math.cbrt(r * mr! + g * mg! + blueLight * mb!)
    const short = Math.cbrt(r * sr! + g * sg! + blueLight * sb!)
    const lightness = long * TO_LAB[0] + middle * TO_LAB[1] + short * TO_LAB[2]
    if (!Number.isFinite(lightness)) continue
    light[i] = lightness
    a[i] = long * TO_LAB[3] + middle * TO_LAB[4] + short * TO_LAB[5]
    b[i] = long * TO_LAB[6] + middle * TO_LAB[7] + short * TO_LAB[8]
    const luminance = r * red + g * green + blueLight * blue
    stop[i] = Math.max(DARKEST_STOP, Math.log2(Math.max(1e-9, luminance) / MIDDLE_GREY))
  }
  return { width, height: Math.floor(count / width), light, a, b, stop }
}

/** Steps that lightness and stops are counted in: an end is found to a thousandth of the lightness of white. */
const STEPS = 4096
const MOST_LIGHT = 4
const stepOfLight = (value: number): number =>
  Math.min(STEPS - 1, Math.max(0, Math.floor((value / MOST_LIGHT) * STEPS)))
const STOPS = 24
const stepOfStop = (value: number): number => Math.min(STEPS - 1, Math.floor(((value - DARKEST_STOP) / STOPS) * STEPS))

/** All of it or a window. Undefined where too little is looked at there to say anything. */
export function lookOf({ width, height, light, a, b, stop }: Toned, window?: Box): Look | undefined {
  const box = window ?? { left: 0, top: 0, right: width, bottom: height }
  // Of each step of lightness how many pixels, and the sums of their a and b
  const counts = new Uint32Array(STEPS)
  const sums = [new Float64Array(STEPS), new Float64Array(STEPS), new Float64Array(STEPS)] as const
  const stops = new Uint32Array(STEPS)
  let [count, chroma] = [0, 0]
  for (let y = box.top; y < box.bottom; y++)
    for (let i = y * width + box.left; i < y * width + box.right; i++) {
      if (Number.isNaN(light[i]!)) continue
      const step = stepOfLight(light[i]!)
      counts[step]!++
      sums[0][step]! += a[i]!
      sums[1][step]! += b[i]!
      sums[2][step]! += light[i]!
      stops[stepOfStop(stop[i]!)]!++
      chroma += Math.hypot(a[i]!, b[i]!)
      count++
    }
  if (count < LEAST_PIXELS) return undefined
  const stepAt = (of: Uint32Array, share: number): number => {
    let sum = 0
    return of.findIndex(value => (sum += value) > share * (count - 1)) + 0.5
  }
  const meanOf = (from: number, to: number): [number, number, number] => {
    let [before, taken, sumA, sumB, sumLight] = [0, 0, 0, 0, 0]
    for (let step = 0; step < STEPS && before < to * count; step++) {
      const here = counts[step]!
      // Of a step that an end lies in a part
      const part = Math.max(0, Math.min(before + here, to * count) - Math.max(before, from * count)) / Math.max(1, here)
      taken += part * here
      sumA += part * sums[0][step]!
      sumB += part * sums[1][step]!
      sumLight += part * sums[2][step]!
      before += here
    }
    return [sumA / taken, sumB / taken, sumLight / taken]
  }
  const stopAt = (share: number): number => (stepAt(stops, share) / STEPS) * STOPS + DARKEST_STOP
  const [shadowA, shadowB, shadowLight] = meanOf(0, FIFTH)
  const [lightA, lightB, lightLight] = meanOf(1 - FIFTH, 1)
  return {
    count,
    blacks: (stepAt(counts, END) / STEPS) * MOST_LIGHT,
    whites: (stepAt(counts, 1 - END) / STEPS) * MOST_LIGHT,
    contrast: stopAt(1 - TENTH) - stopAt(TENTH),
    colourfulness: chroma / count,
    shadows: [shadowA, shadowB],
    lights: [lightA, lightB],
    ...{ shadowLight, lightLight, dark: stopAt(FIFTH), bright: stopAt(1 - FIFTH), middle: stopAt(0.5) },
  }
}
