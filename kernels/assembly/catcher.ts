// Shadow catchers: light on real ground with the objects there, and without them.
import * as L from './layout'
import { followBoth } from './path'

let room: usize = 0
export function initCatcher(scratch: usize): void {
  room = scratch + L.SCRATCH_LIGHT
}

/**
 * Shadow ratio at the loaded catcher, seen along dx, dy, dz: what a white matt ground would send with everything there,
 * and with only the stand-ins there, light by way of things and of other ground counted. Where no object comes between,
 * both sums are the same to the bit.
 */
export function followShadow(
  scene: usize,
  shadow: usize,
  dx: f32,
  dy: f32,
  dz: f32,
  weight: f32,
  maxBounces: i32,
  clamp: f32,
  dimension: u32,
): void {
  store<f32>(shadow, load<f32>(shadow, L.SHADOW_SHARE << 2) + weight, L.SHADOW_SHARE << 2)
  followBoth(
    scene,
    room,
    shadow + (L.SHADOW_WITH << 2),
    shadow + (L.SHADOW_WITHOUT << 2),
    dx,
    dy,
    dz,
    weight,
    maxBounces,
    clamp,
    dimension,
  )
}
