// What a picture's light is like, counted: how often each value is there, where across the picture, and which colours.
import { LUMINANCE } from '../colour/luminance'
import { REC709, rgbToXyz } from '../colour/matrix'
import { MARKS, markOf } from './marks'

/** Red, green, blue, luminance. */
export const MEASURED = 4
/** Steps of a stop, from the first: 0.18 times 2 to that. */
export const STOP_STEPS = 8
export const FIRST_STOP = -12
export const STOPS = 20
export const WAVE_COLUMNS = 256
export const WAVE_ROWS = 128
/** Steps of Cb and Cr each, from -0.5 to 0.5. */
export const VECTOR_STEPS = 128

export interface LightMeasure {
  /** Pixels that were counted. */
  count: number
  /** How often each display code is there: 256 for each of MEASURED. */
  codes: Uint32Array
  /** How often each step of scene-linear light is there: STOPS times STOP_STEPS for each; what is beyond is in the last. */
  stops: Uint32Array
  /** Display codes by the place across: for each of MEASURED WAVE_ROWS from dark to light, of so many columns. */
  wave: Uint32Array
  /** WAVE_COLUMNS, or fewer where there are not as many pixels across. */
  columns: number
  /** Colours on the plane that was asked for: rows of VECTOR_STEPS from below. */
  vector: Uint32Array
  /** Pixels that are of each of MARKS. */
  marks: number[]
}
/**
 * Where a colour stands: Cb across and Cr up from -0.5 to 0.5 (ITU-R BT.709-6, item 3.3, of display values), or the
 * chromaticity of its light: u′, v′ (CIE 1976) or x, y (CIE 1931), from 0 up.
 */
export const PLANES = { chroma: 1, 'u′v′': 0.63, xy: 0.9 } as const
export type Plane = keyof typeof PLANES

const BINS = STOPS * STOP_STEPS
/** The step of light by the upper 16 bits of a float: exact to a hundredth of a stop. */
const stepOf = ((): Uint8Array => {
  const table = new Uint8Array(65536)
  const bits = new Uint32Array(1)
  const float = new Float32Array(bits.buffer)
  for (let high = 1; high < 0x7f80; high++) {
    bits[0] = (high << 16) | 0x8000
    const stop = Math.log2(float[0]! / 0.18)
    table[high] = Math.min(BINS - 1, Math.max(0, Math.floor((stop - FIRST_STOP) * STOP_STEPS)))
  }
  // Endless light; what is no number stays in the first
  table[0x7f80] = BINS - 1
  return table
})()

const TO_XYZ = rgbToXyz(REC709)
/** pixels: scene-linear RGBA, rows of `width`; shown: their display codes RGBA. */
export function measureLight(
  pixels: Float32Array,
  shown: Uint8ClampedArray,
  width: number,
  on: Plane = 'chroma',
): LightMeasure {
  const count = pixels.length / 4
  const codes = new Uint32Array(MEASURED * 256)
  const stops = new Uint32Array(MEASURED * BINS)
  const columns = Math.min(WAVE_COLUMNS, width)
  const wave = new Uint32Array(MEASURED * WAVE_ROWS * columns)
  const vector = new Uint32Array(VECTOR_STEPS * VECTOR_STEPS)
  const bits = new Uint32Array(pixels.buffer, pixels.byteOffset, pixels.length)
  const light = new Float32Array(1)
  const lightBits = new Uint32Array(light.buffer)
  const marks = MARKS.map(() => 0).concat(0)
  const steps = VECTOR_STEPS / PLANES[on]
  const [x1, x2, x3, y1, y2, y3, z1, z2, z3] = TO_XYZ
  const plane = WAVE_ROWS * columns
  const [wr, wg, wb] = LUMINANCE
  for (let i = 0, x = 0; i < count; i++) {
    const at = i * 4
    const r = pixels[at]!
    const g = pixels[at + 1]!
    const b = pixels[at + 2]!
    light[0] = r * wr + g * wg + b * wb
    stops[stepOf[bits[at]! >>> 16]!]!++
    stops[BINS + stepOf[bits[at + 1]! >>> 16]!]!++
    stops[2 * BINS + stepOf[bits[at + 2]! >>> 16]!]!++
    stops[3 * BINS + stepOf[lightBits[0]! >>> 16]!]!++
    const red = shown[at]!
    const green = shown[at + 1]!
    const blue = shown[at + 2]!
    const bright = red * wr + green * wg + blue * wb
    marks[markOf(r, g, b, red === 255 || green === 255 || blue === 255)]!++
    codes[red]!++
    codes[256 + green]!++
    codes[512 + blue]!++
    codes[768 + ((bright + 0.5) | 0)]!++
    const column = ((x * columns) / width) | 0
    wave[(red >> 1) * columns + column]!++
    wave[plane + (green >> 1) * columns + column]!++
    wave[2 * plane + (blue >> 1) * columns + column]!++
    wave[3 * plane + ((bright / 2) | 0) * columns + column]!++
    let across: number
    let up: number
    if (on === 'chroma') {
      across = (blue - bright) / 1.8556 / 255 + 0.5
      up = (red - bright) / 1.5748 / 255 + 0.5
    } else {
      const large = x1 * r + x2 * g + x3 * b
      const high = y1 * r + y2 * g + y3 * b
      const deep = z1 * r + z2 * g + z3 * b
      const isXy = on === 'xy'
      const all = isXy ? large + high + deep : large + 15 * high + 3 * deep
      across = ((isXy ? 1 : 4) * large) / all
      up = ((isXy ? 1 : 9) * high) / all
    }
    // What has no colour, as black has none, is nowhere
    if (across >= 0 && up >= 0)
      vector[
        Math.min(VECTOR_STEPS - 1, (up * steps) | 0) * VECTOR_STEPS + Math.min(VECTOR_STEPS - 1, (across * steps) | 0)
      ]!++
    if (++x === width) x = 0
  }
  return { count, codes, stops, wave, columns, vector, marks: marks.slice(0, MARKS.length) }
}

/** Hue of skin on the plane of Cb and Cr, in degrees from Cb: about 123 (common practice, no source). */
export const SKIN_HUE = 123
