// What a picture's tones and colours are like, as one is made like another: OKLab (B. Ottosson 2020), each pixel counted
// by how much it covers.
import { oklabOf } from '../colour/oklab'
import type { GrainMeasured } from './grain'

/** Shares of the pixels that are darker than each of a picture's tones. */
export const TONE_SHARES = [0.01, 0.05, 0.15, 0.3, 0.5, 0.7, 0.85, 0.95, 0.99] as const
export interface Likeness {
  /** Lightness at TONE_SHARES. */
  tones: number[]
  /** Mean of a and b, and how far they spread (standard deviation). */
  a: number
  b: number
  spreadA: number
  spreadB: number
  /** Of its pixels as they are, where that was asked for and something is flat. */
  grain?: GrainMeasured | undefined
}
/** pixels: scene-linear premultiplied RGBA. Undefined where nothing is covered. What is no number does not count. */
export function likenessOf(pixels: Float32Array): Likeness | undefined {
  const lights = new Float32Array(pixels.length / 4)
  let [count, sumA, sumB, squareA, squareB] = [0, 0, 0, 0, 0]
  for (let i = 0; i < pixels.length; i += 4) {
    const alpha = pixels[i + 3]!
    if (!(alpha > 0.5)) continue
    const [light, a, b] = oklabOf([pixels[i]! / alpha, pixels[i + 1]! / alpha, pixels[i + 2]! / alpha])
    if (!Number.isFinite(light + a + b)) continue
    lights[count++] = light
    sumA += a
    sumB += b
    squareA += a * a
    squareB += b * b
  }
  if (!count) return undefined
  const sorted = lights.subarray(0, count).sort()
  const spread = (sum: number, square: number): number => Math.sqrt(Math.max(0, square / count - (sum / count) ** 2))
  return {
    tones: TONE_SHARES.map(share => sorted[Math.min(count - 1, Math.floor(share * count))]!),
    a: sumA / count,
    b: sumB / count,
    spreadA: spread(sumA, squareA),
    spreadB: spread(sumB, squareB),
  }
}

/** Less than this is no spread: a picture of one colour gives none to another. */
const LEAST_SPREAD = 0.002
/** The most that colours are spread or drawn together. */
export const MOST_SPREAD = 4
/** The values of the treatment “match” that make a picture like another. */
export function likened(
  own: Likeness,
  other: Likeness,
): {
  tones: [number, number][]
  from_a: number
  from_b: number
  to_a: number
  to_b: number
  spread_a: number
  spread_b: number
} {
  const round = (value: number): number => Number(value.toFixed(5))
  const tones: [number, number][] = []
  own.tones.forEach((tone, i) => {
    const last = tones.at(-1)
    // A flat of one tone has several shares
    if (!last || tone - last[0] > 0.004) tones.push([round(Math.max(0, tone)), round(Math.max(0, other.tones[i]!))])
  })
  if (tones.length < 2) tones.push([tones[0]![0] + 1, tones[0]![1] + 1])
  const ratio = (from: number, to: number): number =>
    from < LEAST_SPREAD ? 1 : round(Math.min(MOST_SPREAD, Math.max(1 / MOST_SPREAD, to / from)))
  return {
    tones,
    from_a: round(own.a),
    from_b: round(own.b),
    to_a: round(other.a),
    to_b: round(other.b),
    spread_a: ratio(own.spreadA, other.spreadA),
    spread_b: ratio(own.spreadB, other.spreadB),
  }
}
