// Which part of a ray lies in a cone of light.
import * as L from './layout'

/** Metres of the ray between which it does. */
export let beamFirst: f32 = 0
export let beamLast: f32 = 0

/**
 * Finds what of a ray from a to b (metres) lies in the cone about an axis (unit vector) up to an angle less than a right
 * one, whose cosine is given; wx, wy, wz lead from the cone's point to the ray's origin. False where nothing does.
 *
 * A place w + t d is in it where its part along the axis is at least the cosine times its length: a quadratic in t, whose
 * roots also tell of the cone's other half.
 */
export function alongBeam(
  wx: f64,
  wy: f64,
  wz: f64,
  dx: f64,
  dy: f64,
  dz: f64,
  ax: f64,
  ay: f64,
  az: f64,
  cosine: f64,
  a: f32,
  b: f32,
): bool {
  const along = dx * ax + dy * ay + dz * az
  const from = wx * ax + wy * ay + wz * az
  const c2 = cosine * cosine
  // Negative where the ray is more askew than the cone is wide
  const bends = along * along - c2
  const half = along * from - c2 * (wx * dx + wy * dy + wz * dz)
  const rest = from * from - c2 * (wx * wx + wy * wy + wz * wz)
  let first: f64 = a
  let last: f64 = b
  const square = half * half - bends * rest
  if (bends < 0) {
    if (square <= 0) return false
    const root = Math.sqrt(square)
    // Less than nothing: the roots are turned round
    first = max(first, (-half + root) / bends)
    last = min(last, (-half - root) / bends)
    if (from + along * 0.5 * (first + last) <= 0) return false
  } else {
    const root = Math.sqrt(max<f64>(0, square))
    const flat = max<f64>(1e-12, bends)
    if (along > 0) first = max(first, (-half + root) / flat)
    else last = min(last, (-half - root) / flat)
  }
  beamFirst = <f32>first
  beamLast = <f32>last
  return last > first
}

/** Narrows what of a ray is between two distances to what lies in the cone of a spot; false where nothing does. */
export function alongSpot(
  scene: usize,
  index: i32,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  first: f32,
  last: f32,
): bool {
  const light = <usize>load<u32>(scene, L.SCENE_LIGHTS) + <usize>index * L.LIGHT_STRIDE
  const at = light + L.LIGHT_POSITION
  const axis = light + L.LIGHT_NORMAL
  return alongBeam(
    ox - load<f32>(at),
    oy - load<f32>(at, 4),
    oz - load<f32>(at, 8),
    dx,
    dy,
    dz,
    load<f32>(axis),
    load<f32>(axis, 4),
    load<f32>(axis, 8),
    load<f32>(light, L.LIGHT_COSINE),
    first,
    last,
  )
}
/** Whether it is a spot that is a point, with a cone less than a half space. */
@inline
export function isBeam(scene: usize, index: i32): bool {
  const light = <usize>load<u32>(scene, L.SCENE_LIGHTS) + <usize>index * L.LIGHT_STRIDE
  return load<i32>(light) == 4 && load<f32>(light, L.LIGHT_COSINE) > 0
}
