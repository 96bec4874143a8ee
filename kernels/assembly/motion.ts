// Paths of pixels while a shutter is open: (x, y) t + (z, w) t² after t frames.

/** How far a path leads by a time. */
@inline
export function pathX(path: v128, t: f32): f32 {
  return (f32x4.extract_lane(path, 0) + f32x4.extract_lane(path, 2) * t) * t
}


@inline
export function pathY(path: v128, t: f32): f32 {
  return (f32x4.extract_lane(path, 1) + f32x4.extract_lane(path, 3) * t) * t
}

/** Square of how far it leads at most from where it begins, of both ends. */
export function farthestSquare(path: v128, open: f32, close: f32): f32 {
  const ox = pathX(path, open)
  const oy = pathY(path, open)
  const cx = pathX(path, close)
  const cy = pathY(path, close)
  return max<f32>(ox * ox + oy * oy, cx * cx + cy * cy)
}

/** Square of how far two lead apart at most. */
export function apartSquare(one: v128, other: v128, open: f32, close: f32): f32 {
  return farthestSquare(f32x4.sub(one, other), open, close)
}
