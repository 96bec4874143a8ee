/**
 * What a sharp filter made, held to the range of the four pixels about a place and a share of it more. Downwards no more
 * than that share of the darkest itself: beside a lamp there would be a black rim.
 */
@inline
export function held(made: v128, low: v128, high: v128, ring: f32): v128 {
  const share = f32x4.splat(ring)
  const range = f32x4.sub(high, low)
  const least = f32x4.sub(low, f32x4.mul(share, f32x4.min(range, f32x4.max(low, f32x4.splat(0)))))
  return f32x4.max(least, f32x4.min(f32x4.add(high, f32x4.mul(share, range)), made))
}
