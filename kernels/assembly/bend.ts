// Radial distortion: how much farther from the middle a pixel comes from.
import { ONE } from './constants'

/** Of a place in half widths from the middle; bent: the picture that is made is the bent one, else the straight one. */
@inline
export function bendAt(px: f32, py: f32, k1: f32, k2: f32, bent: i32): f32 {
  const r2 = px * px + py * py
  if (!bent) return ONE + r2 * (k1 + r2 * k2)
  // From the bent radius r to the straight one s: s (1 + k1 s2 + k2 s4) = r, by Newton's method
  const r = sqrt<f32>(r2)
  let s = r
  for (let i = 0; i < 8; i++) {
    const s2 = s * s
    const slope = ONE + s2 * (<f32>3 * k1 + s2 * <f32>5 * k2)
    s -= (s * (ONE + s2 * (k1 + s2 * k2)) - r) / (slope > <f32>0.05 ? slope : <f32>0.05)
  }
  return r > <f32>1e-6 ? s / r : ONE
}
