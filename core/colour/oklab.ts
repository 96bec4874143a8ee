// OKLab of linear Rec.709 (B. Ottosson, "A perceptual color space for image processing", 2020).
import { apply3, type Matrix3 } from './matrix'

export const TO_CONES: Matrix3 = [
  0.4122214708, 0.5363325363, 0.0514459929, 0.2119034982, 0.6806995451, 0.1073969566, 0.0883024619, 0.2817188376,
  0.6299787005,
]
export const TO_LAB: Matrix3 = [
  0.2104542553, 0.793617785, -0.0040720468, 1.9779984951, -2.428592205, 0.4505937099, 0.0259040371, 0.7827717662,
  -0.808675766,
]
export const FROM_LAB: Matrix3 = [
  1, 0.3963377774, 0.2158037573, 1, -0.1055613458, -0.0638541728, 1, -0.0894841775, -1.291485548,
]
export const FROM_CONES: Matrix3 = [
  4.0767416621, -3.3077115913, 0.2309699292, -1.2684380046, 2.6097574011, -0.3413193965, -0.0041960863, -0.7034186147,
  1.707614701,
]

/** Lightness, and a and b across. */
export const oklabOf = ([r, g, b]: readonly [number, number, number]): [number, number, number] =>
  apply3(TO_LAB, ...(apply3(TO_CONES, r, g, b).map(Math.cbrt) as [number, number, number]))

/** The same the other way. */
export const rgbOfOklab = (lab: readonly [number, number, number]): [number, number, number] =>
  apply3(FROM_CONES, ...(apply3(FROM_LAB, ...lab).map(cone => cone ** 3) as [number, number, number]))

/**
 * A colour as lightness, strength and hue: strength is chroma for each lightness, so that it stays as it is where there
 * is more or less of the same light; hue in degrees from 0 to 360, 0 of greys.
 */
export interface ToneOf {
  lightness: number
  strength: number
  hue: number
}
const PALEST = 1e-5
export function toneOf(colour: readonly [number, number, number]): ToneOf {
  const [lightness, a, b] = oklabOf(colour)
  const chroma = Math.hypot(a, b)
  const strength = lightness > PALEST ? chroma / lightness : 0
  const hue = strength > PALEST ? ((Math.atan2(b, a) * 180) / Math.PI + 360) % 360 : 0
  return { lightness, strength, hue }
}
export function colourOfTone({ lightness, strength, hue }: ToneOf): [number, number, number] {
  const turn = (hue * Math.PI) / 180
  const chroma = lightness * strength
  return rgbOfOklab([lightness, chroma * Math.cos(turn), chroma * Math.sin(turn)])
}
