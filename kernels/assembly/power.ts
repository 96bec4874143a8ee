// Four powers at once, to 4e-7 relative: exponent and mantissa of the base are scaled apart, so that the product does not
// lose the low bits of the logarithm. Logarithm by the atanh series, exponential by its Taylor series on [-1/2, 1/2].

@inline function splat(value: f32): v128 { return f32x4.splat(value) }

/** base^exponent by lane; 0 for a base of 0 or less. */
@inline export function pow4(base: v128, exponent: v128): v128 {
  const positive = f32x4.gt(base, splat(1e-30))
  const safe = v128.bitselect(base, splat(1), positive)
  // m in [0.7071, 1.4142), e such that base = m 2^e
  const shifted = i32x4.sub(safe, i32x4.splat(0x3f3504f3))
  const e = i32x4.shr_s(shifted, 23)
  const m = i32x4.add(v128.and(shifted, i32x4.splat(0x007fffff)), i32x4.splat(0x3f3504f3))
  const s = f32x4.div(f32x4.sub(m, splat(1)), f32x4.add(m, splat(1)))
  const z = f32x4.mul(s, s)
  let log = f32x4.add(f32x4.mul(z, splat(0.11111111)), splat(0.14285714))
  log = f32x4.add(f32x4.mul(z, log), splat(0.2))
  log = f32x4.add(f32x4.mul(z, log), splat(0.33333333))
  log = f32x4.mul(f32x4.add(f32x4.mul(f32x4.mul(s, z), log), s), splat(2.88539008))
  const high = f32x4.max(splat(-126), f32x4.min(splat(127), f32x4.mul(f32x4.convert_i32x4_s(e), exponent)))
  const whole = f32x4.nearest(high)
  const rest = f32x4.add(f32x4.sub(high, whole), f32x4.mul(log, exponent))
  const more = f32x4.nearest(rest)
  const f = f32x4.mul(f32x4.sub(rest, more), splat(0.69314718))
  let p = f32x4.add(f32x4.mul(f, splat(0.00019841270)), splat(0.0013888889))
  p = f32x4.add(f32x4.mul(f, p), splat(0.0083333333))
  p = f32x4.add(f32x4.mul(f, p), splat(0.041666667))
  p = f32x4.add(f32x4.mul(f, p), splat(0.16666667))
  p = f32x4.add(f32x4.mul(f, p), splat(0.5))
  p = f32x4.add(f32x4.mul(f32x4.mul(f, f), p), f32x4.add(f, splat(1)))
  const power = i32x4.max_s(i32x4.splat(-126), i32x4.min_s(i32x4.splat(127), i32x4.trunc_sat_f32x4_s(f32x4.add(whole, more))))
  return v128.and(f32x4.mul(p, i32x4.shl(i32x4.add(power, i32x4.splat(127)), 23)), positive)
}
