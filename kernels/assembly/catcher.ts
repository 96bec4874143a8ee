// Shadow catchers: light on real ground with the objects there, and without them.
import * as L from './layout'
import { add } from './film'
import { followLight, followWithout, touched } from './path'
import * as S from './surface'

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

/**
 * Light that white matt paint on the loaded surface would get, by any way, with everything there and with only the
 * stand-ins there, into two sums of three. Both are followed with the same random numbers: where no object has a part in
 * it they are the same to the bit. block: room for a block of light.
 */
function followBoth(
  scene: usize,
  block: usize,
  withAll: usize,
  withoutObjects: usize,
  dx: f32,
  dy: f32,
  dz: f32,
  weight: f32,
  maxBounces: i32,
  clamp: f32,
  dimension: u32,
): void {
  const place = S.surfacePlace
  const triangle = S.surfaceTriangle
  const u = S.barycentricU
  const v = S.barycentricV
  followWithout(0)
  S.paintWhite()
  memory.fill(block, 0, (<usize>L.LIGHT_BLOCK) << 2)
  followLight(scene, block, 0, 0, dx, dy, dz, weight, maxBounces, clamp, dimension)
  addSum(withAll, block)
  if (touched) {
    S.loadSurface(scene, place, triangle, u, v, dx, dy, dz)
    S.paintWhite()
    memory.fill(block, 0, (<usize>L.LIGHT_BLOCK) << 2)
    followWithout(L.FLAG_SYNTHETIC)
    followLight(scene, block, 0, 0, dx, dy, dz, weight, maxBounces, clamp, dimension)
    followWithout(0)
  }
  addSum(withoutObjects, block)
}
function addSum(to: usize, block: usize): void {
  let r: f32 = 0
  let g: f32 = 0
  let b: f32 = 0
  for (let part: usize = 0; part < (<usize>L.LIGHT_BLOCK) << 2; part += 12) {
    r += load<f32>(block + part)
    g += load<f32>(block + part, 4)
    b += load<f32>(block + part, 8)
  }
  add(to, 0, r, g, b)
}
