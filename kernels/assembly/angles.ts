// Angles of directions. M. Abramowitz and I. Stegun, "Handbook of Mathematical Functions", 4.4.49: error below 2e-8 on
// [0, 1].
import { ONE } from './constants'

const HALF_TURN: f32 = 3.14159265
const QUARTER: f32 = 1.57079633

/** Angle of (x, y) in radians, -pi to pi. */
export function angle(y: f32, x: f32): f32 {
  const ay = abs(y)
  const ax = abs(x)
  const top = max(ax, ay)
  if (!(top > 0)) return 0
  const t = min(ax, ay) / top
  const s = t * t
  let p: f32 = <f32>0.0028662257 * s - <f32>0.0161657367
  p = p * s + <f32>0.0429096138
  p = p * s - <f32>0.07528964
  p = p * s + <f32>0.1065626393
  p = p * s - <f32>0.1420889944
  p = p * s + <f32>0.1999355085
  p = p * s - <f32>0.3333314528
  p = (p * s + ONE) * t
  if (ay > ax) p = QUARTER - p
  if (x < 0) p = HALF_TURN - p
  return y < 0 ? -p : p
}

/** Angle between +Y and a unit direction whose y is given. */
export function polar(y: f32): f32 {
  return angle(sqrt<f32>(max<f32>(0, ONE - y * y)), y)
}
