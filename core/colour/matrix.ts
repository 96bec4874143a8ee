// 3x3 matrices by rows, and the RGB to XYZ matrix that primaries and a white point give (SMPTE RP 177-1993).
export type Matrix3 = readonly [number, number, number, number, number, number, number, number, number]

export function multiply3(a: Matrix3, b: Matrix3): Matrix3 {
  const out: number[] = []
  for (let row = 0; row < 3; row++)
    for (let column = 0; column < 3; column++)
      out.push(a[row * 3]! * b[column]! + a[row * 3 + 1]! * b[3 + column]! + a[row * 3 + 2]! * b[6 + column]!)
  return out as unknown as Matrix3
}

export function inverse3(m: Matrix3): Matrix3 {
  const [a, b, c, d, e, f, g, h, i] = m
  const A = e * i - f * h
  const B = f * g - d * i
  const C = d * h - e * g
  const s = 1 / (a * A + b * B + c * C)
  return [
    A * s,
    (c * h - b * i) * s,
    (b * f - c * e) * s,
    B * s,
    (a * i - c * g) * s,
    (c * d - a * f) * s,
    C * s,
    (b * g - a * h) * s,
    (a * e - b * d) * s,
  ]
}

export const apply3 = (m: Matrix3, r: number, g: number, b: number): [number, number, number] => [
  m[0] * r + m[1] * g + m[2] * b,
  m[3] * r + m[4] * g + m[5] * b,
  m[6] * r + m[7] * g + m[8] * b,
]

export type Chromaticity = readonly [number, number]
export interface Primaries {
  red: Chromaticity
  green: Chromaticity
  blue: Chromaticity
  white: Chromaticity
}

/** Rec.709 and sRGB primaries with D65 (ITU-R BT.709-6, table 1). */
export const REC709: Primaries = { red: [0.64, 0.33], green: [0.3, 0.6], blue: [0.15, 0.06], white: [0.3127, 0.329] }
/** Display P3 with D65 (SMPTE EG 432-1; white of IEC 61966-2-1). */
export const P3: Primaries = { red: [0.68, 0.32], green: [0.265, 0.69], blue: [0.15, 0.06], white: [0.3127, 0.329] }
/** ITU-R BT.2020-2, table 3. */
export const REC2020: Primaries = {
  red: [0.708, 0.292],
  green: [0.17, 0.797],
  blue: [0.131, 0.046],
  white: [0.3127, 0.329],
}
/** ACES AP0 primaries (SMPTE ST 2065-1). */
export const AP0: Primaries = {
  red: [0.7347, 0.2653],
  green: [0, 1],
  blue: [0.0001, -0.077],
  white: [0.32168, 0.33767],
}
/** ACES AP1 primaries (ACEScg, S-2014-004). */
export const AP1: Primaries = {
  red: [0.713, 0.293],
  green: [0.165, 0.83],
  blue: [0.128, 0.044],
  white: [0.32168, 0.33767],
}

const whiteXyz = ([x, y]: Chromaticity): [number, number, number] => [x / y, 1, (1 - x - y) / y]

export function rgbToXyz(p: Primaries): Matrix3 {
  const column = ([x, y]: Chromaticity): [number, number, number] => [x / y, 1, (1 - x - y) / y]
  const r = column(p.red)
  const g = column(p.green)
  const b = column(p.blue)
  const m: Matrix3 = [r[0], g[0], b[0], r[1], g[1], b[1], r[2], g[2], b[2]]
  const s = apply3(inverse3(m), ...whiteXyz(p.white))
  return [
    m[0] * s[0],
    m[1] * s[1],
    m[2] * s[2],
    m[3] * s[0],
    m[4] * s[1],
    m[5] * s[2],
    m[6] * s[0],
    m[7] * s[1],
    m[8] * s[2],
  ]
}

// Bradford's cone responses (K. M. Lam 1985; matrix as in ICC.1:2010, annex E)
const BRADFORD: Matrix3 = [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296]

// Those of CIECAM16 (C. Li et al., "Comprehensive color solutions: CAM16, CAT16, and CAM16-UCS", Color Res. Appl. 42
// (2017), 703)
const CAT16: Matrix3 = [0.401288, 0.650173, -0.051461, -0.250268, 1.204414, 0.045854, -0.002079, 0.048952, 0.953127]
const RESPONSES = { bradford: BRADFORD, cat16: CAT16 } as const
export type Adaptation = keyof typeof RESPONSES

/** Takes XYZ seen under one white to what looks the same under another. */
export function adaptation(from: Chromaticity, to: Chromaticity, by: Adaptation = 'bradford'): Matrix3 {
  const responses = RESPONSES[by]
  const a = apply3(responses, ...whiteXyz(from))
  const b = apply3(responses, ...whiteXyz(to))
  const scale: Matrix3 = [b[0] / a[0], 0, 0, 0, b[1] / a[1], 0, 0, 0, b[2] / a[2]]
  return multiply3(inverse3(responses), multiply3(scale, responses))
}

export function rgbToRgb(from: Primaries, to: Primaries): Matrix3 {
  return multiply3(inverse3(rgbToXyz(to)), multiply3(adaptation(from.white, to.white), rgbToXyz(from)))
}
