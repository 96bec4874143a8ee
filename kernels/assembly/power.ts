// Four powers at once, to 4e-7 relative: exponent and mantissa of the base are scaled apart, so that the product does
// not lose the low bits of the logarithm. Logarithm by the atanh series, exponential by its Taylor series on [-1/2,
// 1/2].

// Constants stand in memory, four times each: a vector spelled out in the code is put together anew at every use (six
// instructions), one that is loaded is an operand. The middle of each line says which.
const table = memory.data<f32>(
  [
    1e-30, 1e-30, 1e-30, 1e-30, /* 0: least base */ 1, 1, 1, 1 /* 16: one */, 0.11111111, 0.11111111, 0.11111111,
    0.11111111, /* 32: 1/9 */ 0.14285714, 0.14285714, 0.14285714, 0.14285714 /* 48: 1/7 */, 0.2, 0.2, 0.2, 0.2,
    /* 64: 1/5 */ 0.33333333, 0.33333333, 0.33333333, 0.33333333 /* 80: 1/3 */, 2.88539008, 2.88539008, 2.88539008,
    2.88539008, /* 96: 2 / ln 2 */ -126, -126, -126, -126, /* 112 */ 127, 127, 127, 127 /* 128 */, 0.69314718,
    0.69314718, 0.69314718, 0.69314718, /* 144: ln 2 */ 0.0001984127, 0.0001984127, 0.0001984127,
    0.0001984127 /* 160: 1/7! */, 0.0013888889, 0.0013888889, 0.0013888889, 0.0013888889, /* 176: 1/6! */ 0.0083333333,
    0.0083333333, 0.0083333333, 0.0083333333 /* 192: 1/5! */, 0.041666667, 0.041666667, 0.041666667, 0.041666667,
    /* 208: 1/4! */ 0.16666667, 0.16666667, 0.16666667, 0.16666667 /* 224: 1/3! */, 0.5, 0.5, 0.5, 0.5 /* 240: 1/2! */,
    12583039, 12583039, 12583039, 12583039 /* 256: 3/2 2^23 and 127 */,
  ],
  16,
)
const bits = memory.data<i32>(
  [
    0x3f3504f3, 0x3f3504f3, 0x3f3504f3, 0x3f3504f3, /* 0: the float 0.7071 */ 0x007fffff, 0x007fffff, 0x007fffff,
    0x007fffff /* 16: mantissa */,
  ],
  16,
)

/** base^exponent by lane; 0 for a base of 0 or less. */
@inline
export function pow4(base: v128, exponent: v128): v128 {
  const one = v128.load(table, 16)
  const root = v128.load(bits)
  const positive = f32x4.gt(base, v128.load(table))
  const safe = v128.bitselect(base, one, positive)
  // m in [0.7071, 1.4142), e such that base = m 2^e
  const shifted = i32x4.sub(safe, root)
  const e = i32x4.shr_s(shifted, 23)
  const m = i32x4.add(v128.and(shifted, v128.load(bits, 16)), root)
  const s = f32x4.div(f32x4.sub(m, one), f32x4.add(m, one))
  const z = f32x4.mul(s, s)
  let log = f32x4.add(f32x4.mul(z, v128.load(table, 32)), v128.load(table, 48))
  log = f32x4.add(f32x4.mul(z, log), v128.load(table, 64))
  log = f32x4.add(f32x4.mul(z, log), v128.load(table, 80))
  log = f32x4.mul(f32x4.add(f32x4.mul(f32x4.mul(s, z), log), s), v128.load(table, 96))
  const high = f32x4.pmax(
    v128.load(table, 112),
    f32x4.pmin(v128.load(table, 128), f32x4.mul(f32x4.convert_i32x4_s(e), exponent)),
  )
  const whole = f32x4.nearest(high)
  const rest = f32x4.add(f32x4.sub(high, whole), f32x4.mul(log, exponent))
  const more = f32x4.nearest(rest)
  const f = f32x4.mul(f32x4.sub(rest, more), v128.load(table, 144))
  let p = f32x4.add(f32x4.mul(f, v128.load(table, 160)), v128.load(table, 176))
  p = f32x4.add(f32x4.mul(f, p), v128.load(table, 192))
  p = f32x4.add(f32x4.mul(f, p), v128.load(table, 208))
  p = f32x4.add(f32x4.mul(f, p), v128.load(table, 224))
  p = f32x4.add(f32x4.mul(f, p), v128.load(table, 240))
  p = f32x4.add(f32x4.mul(f32x4.mul(f, f), p), f32x4.add(f, one))
  // Between -126 and 127 by now, but for sums at the very ends: those saturate
  const power = f32x4.pmax(v128.load(table, 112), f32x4.pmin(v128.load(table, 128), f32x4.add(whole, more)))
  // A whole number added to this one stands in its low bits, the bias of the exponent with it; the rest is shifted out
  return v128.and(f32x4.mul(p, i32x4.shl(f32x4.add(power, v128.load(table, 256)), 23)), positive)
}
