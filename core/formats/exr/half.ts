// IEEE 754 binary16 to and from float32, by table one way and by rounding to nearest even the other.
const TABLE = new Float32Array(65536)
/** The value of each code. */
export const HALF_VALUES: Readonly<Float32Array> = TABLE
for (let code = 0; code < 65536; code++) {
  const exponent = (code >> 10) & 31
  const mantissa = code & 1023
  const value =
    exponent === 0
      ? mantissa * 2 ** -24
      : exponent === 31
        ? mantissa
          ? NaN
          : Infinity
        : (1 + mantissa / 1024) * 2 ** (exponent - 15)
  TABLE[code] = code & 0x8000 ? -value : value
}

export const halfToFloat = (code: number): number => TABLE[code]!

export function halvesToFloats(codes: Uint16Array): Float32Array {
  const out = new Float32Array(codes.length)
  for (let i = 0; i < codes.length; i++) out[i] = TABLE[codes[i]!]!
  return out
}

const float = new Float32Array(1)
const bits = new Uint32Array(float.buffer)

/** Half code of a float: nearest even; beyond 65504 infinity, NaN stays NaN. */
export function floatToHalf(value: number): number {
  float[0] = value
  const x = bits[0]!
  const sign = (x >>> 16) & 0x8000
  const magnitude = x & 0x7fffffff
  if (magnitude > 0x7f800000) return sign | 0x7e00
  if (magnitude >= 0x477ff000) return sign | 0x7c00
  if (magnitude < 0x38800000) {
    // Subnormal: a multiple of 2^-24, rounded by the addition of a number whose last bit is that
    if (magnitude < 0x33000000) return sign
    const shift = 126 - (magnitude >>> 23)
    const mantissa = (magnitude & 0x7fffff) | 0x800000
    const whole = mantissa >>> shift
    const rest = mantissa & ((1 << shift) - 1)
    const half = 1 << (shift - 1)
    return sign | (rest > half || (rest === half && whole & 1) ? whole + 1 : whole)
  }
  const shifted = magnitude - 0x38000000
  return sign | ((shifted + 0xfff + ((shifted >>> 13) & 1)) >>> 13)
}

export function floatsToHalves(values: Float32Array): Uint16Array {
  const out = new Uint16Array(values.length)
  for (let i = 0; i < values.length; i++) out[i] = floatToHalf(values[i]!)
  return out
}
