/** Two to a power of nothing or less; the polynomial is that of 2^x on 0..1 (own fit, to 3e-6). */
@inline
export function powersOfTwo(x: v128): v128 {
  // What is no number is the least of all
  const held = f32x4.pmax(f32x4.splat(-126), x)
  const below = f32x4.floor(held)
  const part = f32x4.sub(held, below)
  let sum = f32x4.splat(0.01353397)
  sum = f32x4.add(f32x4.mul(sum, part), f32x4.splat(0.052011345))
  sum = f32x4.add(f32x4.mul(sum, part), f32x4.splat(0.24144323))
  sum = f32x4.add(f32x4.mul(sum, part), f32x4.splat(0.69300359))
  sum = f32x4.add(f32x4.mul(sum, part), f32x4.splat(1.0000026))
  // Whole numbers stand in the last bits of a float of 1.5 · 2^23 and more
  const exponent = i32x4.shl(f32x4.add(below, f32x4.splat(12582912 + 127)), 23)
  return f32x4.mul(sum, exponent)
}

/** The same of one number. */
@inline
export function powerOfTwo(x: f32): f32 {
  return f32x4.extract_lane(powersOfTwo(f32x4.splat(x)), 0)
}
