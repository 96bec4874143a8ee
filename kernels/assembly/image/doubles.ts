// A pixel of four channels in double precision: two numbers of two.

/** The third and fourth channel. */
@inline
export function second(pixel: v128): v128 {
  return f64x2.promote_low_f32x4(i32x4.shuffle(pixel, pixel, 2, 3, 2, 3))
}

/** Both as a pixel again. */
@inline
export function rounded(near: v128, far: v128): v128 {
  return i32x4.shuffle(f32x4.demote_f64x2_zero(near), f32x4.demote_f64x2_zero(far), 0, 1, 4, 5)
}
