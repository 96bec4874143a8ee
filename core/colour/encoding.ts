// Colour encodings that pictures come in and go out as. Inside everything is linear Rec.709, scene-referred.
import { apply3, AP1, inverse3, REC709, rgbToRgb, type Matrix3 } from './matrix'

export interface Encoding {
  id: string
  label: string
  help: string
  /** Code (0..1 and beyond) to linear, odd-symmetric below 0. */
  decode?(code: number): number
  encode?(value: number): number
  /** Linear of this encoding to linear Rec.709. */
  toWorking?: Matrix3
  /** Not a colour: never converted. */
  data?: boolean
  /** What the file's numbers are: for the display or for light. */
  display: boolean
}

const odd = (curve: (value: number) => number) => (value: number): number => value < 0 ? -curve(-value) : curve(value)

/** IEC 61966-2-1:1999 */
const srgbDecode = odd(code => code <= 0.04045 ? code / 12.92 : ((code + 0.055) / 1.055) ** 2.4)
const srgbEncode = odd(value => value <= 0.0031308 ? value * 12.92 : 1.055 * value ** (1 / 2.4) - 0.055)
/** ITU-R BT.709-6, item 1.2: the camera curve and its inverse */
const rec709Decode = odd(code => code < 0.081 ? code / 4.5 : ((code + 0.099) / 1.099) ** (1 / 0.45))
const rec709Encode = odd(value => value < 0.018 ? value * 4.5 : 1.099 * value ** 0.45 - 0.099)

export const ENCODINGS: readonly Encoding[] = [
  { id: 'srgb', label: 'sRGB', help: 'Display pictures: photographs and graphics.', decode: srgbDecode, encode: srgbEncode, display: true },
  { id: 'rec709', label: 'Rec.709', help: 'Video by the Rec.709 camera curve.', decode: rec709Decode, encode: rec709Encode, display: true },
  { id: 'linear', label: 'linear Rec.709', help: 'Light itself, Rec.709 primaries.', display: false },
  { id: 'acescg', label: 'ACEScg', help: 'Light itself, AP1 primaries.', toWorking: rgbToRgb(AP1, REC709), display: false },
  { id: 'data', label: 'data', help: 'Not a colour (depth, IDs, directions): never converted.', data: true, display: false },
]
export const ENCODING_IDS: readonly string[] = ENCODINGS.map(encoding => encoding.id)

/** The encoding of that id. Throws when there is none. */
export function encodingOf(id: string): Encoding {
  const found = ENCODINGS.find(encoding => encoding.id === id)
  if (!found) throw new Error(`There is no encoding “${id}”; there are ${ENCODING_IDS.join(', ')}.`)
  return found
}

/** Decodes RGBA pixels in place to linear Rec.709; alpha is left alone. */
export function decodePixels(pixels: Float32Array, encoding: Encoding): void {
  const { decode, toWorking } = encoding
  if (!decode && !toWorking) return
  for (let i = 0; i < pixels.length; i += 4) {
    let r = pixels[i]!, g = pixels[i + 1]!, b = pixels[i + 2]!
    if (decode) { r = decode(r); g = decode(g); b = decode(b) }
    if (toWorking) [r, g, b] = apply3(toWorking, r, g, b)
    pixels[i] = r; pixels[i + 1] = g; pixels[i + 2] = b
  }
}

/** Encodes RGBA pixels of linear Rec.709 in place. */
export function encodePixels(pixels: Float32Array, encoding: Encoding): void {
  const matrix = encoding.toWorking && inverse3(encoding.toWorking)
  const { encode } = encoding
  if (!encode && !matrix) return
  for (let i = 0; i < pixels.length; i += 4) {
    let r = pixels[i]!, g = pixels[i + 1]!, b = pixels[i + 2]!
    if (matrix) [r, g, b] = apply3(matrix, r, g, b)
    if (encode) { r = encode(r); g = encode(g); b = encode(b) }
    pixels[i] = r; pixels[i + 1] = g; pixels[i + 2] = b
  }
}
