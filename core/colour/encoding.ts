// Colour encodings that pictures come in and go out as. Inside everything is linear Rec.709, scene-referred.
import { apply3, AP0, AP1, inverse3, P3, REC2020, REC709, rgbToRgb, type Matrix3 } from './matrix'

export interface Encoding {
  id: string
  label: string
  help: string
  /** Code (0..1 and beyond) to linear, odd-symmetric below 0. */
  decode?(code: number): number
  encode?(value: number): number
  /** RGBA pixels in place, before everything else: a table that brings them into the encoding. */
  map?(pixels: Float32Array): void
  /** Linear of this encoding to linear Rec.709. */
  toWorking?: Matrix3
  /** Not a colour: never converted. */
  data?: boolean
  /** What the file's numbers are: for the display or for light. */
  display: boolean
}

const odd =
  (curve: (value: number) => number) =>
  (value: number): number =>
    value < 0 ? -curve(-value) : curve(value)

/** IEC 61966-2-1:1999 */
const srgbDecode = odd(code => (code <= 0.04045 ? code / 12.92 : ((code + 0.055) / 1.055) ** 2.4))
const srgbEncode = odd(value => (value <= 0.0031308 ? value * 12.92 : 1.055 * value ** (1 / 2.4) - 0.055))
/** The sRGB code, 0..255, of linear light; what is beyond is held to it. */
export const displayByte = (value: number): number => Math.round(255 * Math.min(1, Math.max(0, srgbEncode(value))))
/** ITU-R BT.709-6, item 1.2: the camera curve and its inverse */
const rec709Decode = odd(code => (code < 0.081 ? code / 4.5 : ((code + 0.099) / 1.099) ** (1 / 0.45)))
const rec709Encode = odd(value => (value < 0.018 ? value * 4.5 : 1.099 * value ** 0.45 - 0.099))

/** ITU-R BT.1886: the reference display, gamma 2.4 with black at 0 */
const bt1886Decode = odd(code => code ** 2.4)
const bt1886Encode = odd(value => value ** (1 / 2.4))

/**
 * SMPTE ST 2084 (ITU-R BT.2100-2, table 4). white: light of HDR reference white, cd/m2 (ITU-R BT.2408, table 1): 1.0 here,
 * so that white means white whatever a picture came from.
 */
export const PQ = {
  m1: 2610 / 16384,
  m2: (2523 / 4096) * 128,
  c1: 3424 / 4096,
  c2: (2413 / 4096) * 32,
  c3: (2392 / 4096) * 32,
  white: 203,
}
const pqDecode = odd(code => {
  const p = code ** (1 / PQ.m2)
  return ((Math.max(0, p - PQ.c1) / (PQ.c2 - PQ.c3 * Math.min(1, p))) ** (1 / PQ.m1) * 10000) / PQ.white
})
const pqEncode = odd(value => {
  const p = ((value * PQ.white) / 10000) ** PQ.m1
  return ((PQ.c1 + PQ.c2 * p) / (1 + PQ.c3 * p)) ** PQ.m2
})

/**
 * ITU-R BT.2100-2, table 5: HLG camera curve and its inverse; 1.0 is the light of 75 % (ITU-R BT.2408: HDR reference
 * white)
 */
const HLG_A = 0.17883277
const HLG_B = 1 - 4 * HLG_A
const HLG_C = 0.5 - HLG_A * Math.log(4 * HLG_A)
const hlgLight = (code: number): number =>
  code <= 0.5 ? (code * code) / 3 : (Math.exp((code - HLG_C) / HLG_A) + HLG_B) / 12
export const HLG = { a: HLG_A, b: HLG_B, c: HLG_C, white: hlgLight(0.75) }
const hlgDecode = odd(code => hlgLight(code) / HLG.white)
const hlgEncode = odd(value => {
  const light = value * HLG.white
  return light <= 1 / 12 ? Math.sqrt(3 * light) : HLG_A * Math.log(12 * light - HLG_B) + HLG_C
})

/** Academy S-2016-001, ACEScct; not mirrored below 0: its straight part goes on there */
const cctDecode = (code: number): number =>
  code <= 0.155251141552511
    ? (code - 0.0729055341958355) / 10.5402377416545
    : Math.min(65504, 2 ** (code * 17.52 - 9.72))
const cctEncode = (value: number): number =>
  value <= 0.0078125 ? 10.5402377416545 * value + 0.0729055341958355 : (Math.log2(value) + 9.72) / 17.52

export const ENCODINGS: readonly Encoding[] = [
  {
    id: 'srgb',
    label: 'sRGB',
    help: 'Display pictures: photographs and graphics.',
    decode: srgbDecode,
    encode: srgbEncode,
    display: true,
  },
  {
    id: 'rec709',
    label: 'Rec.709',
    help: 'Video by the Rec.709 camera curve.',
    decode: rec709Decode,
    encode: rec709Encode,
    display: true,
  },
  {
    id: 'bt1886',
    label: 'BT.1886',
    help: 'Video as the reference display shows it: Rec.709 primaries, gamma 2.4.',
    decode: bt1886Decode,
    encode: bt1886Encode,
    display: true,
  },
  {
    id: 'p3',
    label: 'Display P3',
    help: 'Phones and wide screens: P3 primaries, the sRGB curve.',
    decode: srgbDecode,
    encode: srgbEncode,
    toWorking: rgbToRgb(P3, REC709),
    display: true,
  },
  {
    id: 'rec2020',
    label: 'Rec.2020',
    help: 'Wide-gamut video by its camera curve.',
    decode: rec709Decode,
    encode: rec709Encode,
    toWorking: rgbToRgb(REC2020, REC709),
    display: true,
  },
  {
    id: 'pq',
    label: 'Rec.2100 PQ',
    help: 'HDR video by absolute light; 203 cd/m² is white.',
    decode: pqDecode,
    encode: pqEncode,
    toWorking: rgbToRgb(REC2020, REC709),
    display: true,
  },
  {
    id: 'hlg',
    label: 'Rec.2100 HLG',
    help: 'HDR video by its camera curve; 75 % is white.',
    decode: hlgDecode,
    encode: hlgEncode,
    toWorking: rgbToRgb(REC2020, REC709),
    display: true,
  },
  { id: 'linear', label: 'linear Rec.709', help: 'Light itself, Rec.709 primaries.', display: false },
  {
    id: 'acescg',
    label: 'ACEScg',
    help: 'Light itself, AP1 primaries.',
    toWorking: rgbToRgb(AP1, REC709),
    display: false,
  },
  {
    id: 'aces2065',
    label: 'ACES2065-1',
    help: 'Light itself, AP0 primaries: exchange files.',
    toWorking: rgbToRgb(AP0, REC709),
    display: false,
  },
  {
    id: 'acescct',
    label: 'ACEScct',
    help: 'Logarithmic light for grading, AP1 primaries.',
    decode: cctDecode,
    encode: cctEncode,
    toWorking: rgbToRgb(AP1, REC709),
    display: false,
  },
  {
    id: 'data',
    label: 'data',
    help: 'Not a colour (depth, IDs, directions): never converted.',
    data: true,
    display: false,
  },
]
export const ENCODING_IDS: readonly string[] = ENCODINGS.map(encoding => encoding.id)

/** The encoding of that id. Throws when there is none. */
export function encodingOf(id: string): Encoding {
  const found = ENCODINGS.find(encoding => encoding.id === id)
  if (!found) throw new Error(`There is no encoding “${id}”; there are ${ENCODING_IDS.join(', ')}.`)
  return found
}

const tables = new Map<string, Float32Array>()
/**
 * Light of each code of 8 or 16 bits (before primaries): whole pictures go by table, a power for each value would take
 * ten times as long.
 */
export function codeTable(encoding: Encoding, levels: number): Float32Array {
  const key = `${encoding.id} ${levels}`
  let table = tables.get(key)
  if (!table) {
    table = Float32Array.from({ length: levels + 1 }, (_, code) => encoding.decode!(code / levels))
    tables.set(key, table)
  }
  return table
}

/** Decodes RGBA pixels in place to linear Rec.709; alpha is left alone. */
export function decodePixels(pixels: Float32Array, { map, decode, toWorking }: Encoding): void {
  map?.(pixels)
  if (!decode && !toWorking) return
  for (let i = 0; i < pixels.length; i += 4) {
    let r = pixels[i]!
    let g = pixels[i + 1]!
    let b = pixels[i + 2]!
    if (decode) {
      r = decode(r)
      g = decode(g)
      b = decode(b)
    }
    if (toWorking) [r, g, b] = apply3(toWorking, r, g, b)
    pixels[i] = r
    pixels[i + 1] = g
    pixels[i + 2] = b
  }
}

/** Encodes RGBA pixels of linear Rec.709 in place. */
export function encodePixels(pixels: Float32Array, encoding: Encoding): void {
  const matrix = encoding.toWorking && inverse3(encoding.toWorking)
  const { encode } = encoding
  if (!encode && !matrix) return
  for (let i = 0; i < pixels.length; i += 4) {
    let r = pixels[i]!
    let g = pixels[i + 1]!
    let b = pixels[i + 2]!
    if (matrix) [r, g, b] = apply3(matrix, r, g, b)
    if (encode) {
      r = encode(r)
      g = encode(g)
      b = encode(b)
    }
    pixels[i] = r
    pixels[i + 1] = g
    pixels[i + 2] = b
  }
}
