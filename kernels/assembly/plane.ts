import { HALF, ONE } from './constants'

/** Where nothing is before the camera. */
const NO_DEPTH: f32 = 1e10

/** Metres to a plane at a pixel (planeRecords.ts), less what it is taken for nearer; NO_DEPTH where it is not before the camera. */
@inline
export function planeMetres(x: i32, y: i32, a: f32, b: f32, c: f32, close: f32): f32 {
  const near = a * (<f32>x + HALF) + b * (<f32>y + HALF) + c
  return near > 0 ? min<f32>(NO_DEPTH, max<f32>(0, ONE / near - close)) : NO_DEPTH
}
