// What is seen through glass, as if glass were not there but for its bending, and what is mirrored: names, numbers,
// colour and shape of it.
import { ONE } from './constants'
import * as L from './layout'
import { add, addCoverage, axial, rayX, rayY, rayZ, stepOff, stepOn, originX, originY, originZ } from './film'
import { draw, randomX, randomY } from './random'
import { closestHit, hitDistance, hitPlace, hitTriangle, hitU, hitV } from './traverse'
import * as F from './facets'
import * as G from './glass'
import * as S from './surface'
import * as M from './shading'

/**
 * Surfaces that one way meets at most: both faces of several bodies of glass, and what light is mirrored to and fro
 * within them.
 */
const MOST_MET = 24
/**
 * Surfaces smoother than the first mirror things to be told apart; from there to the second it fades. Roughness as in
 * glTF.
 */
const MIRRORS: f32 = 0.3
const SCATTERS: f32 = 0.5

/** Keeps the loaded surface as what is there; metres along the way that light took, measured along the view axis. */
function keep(pixel: usize, record: usize, slots: i32, share: f32, metres: f32, middle: bool): void {
  const at = pixel + ((<usize>load<i32>(record)) << 2)
  if (middle) {
    if (load<i32>(at, L.BEYOND_OBJECT_CENTRE << 2)) return
    store<i32>(at, S.surfaceObject + 1, L.BEYOND_OBJECT_CENTRE << 2)
    store<f32>(at, metres, L.BEYOND_DEPTH_CENTRE << 2)
    return
  }
  const held = load<f32>(at, L.BEYOND_DEPTH_NEAREST << 2)
  if (share > 0.05 && (held == 0 || metres < held)) {
    store<f32>(at, metres, L.BEYOND_DEPTH_NEAREST << 2)
    store<i32>(at, S.surfaceObject + 1, L.BEYOND_OBJECT_NEAREST << 2)
  }
  store<f32>(at, load<f32>(at) + share)
  add(at, L.BEYOND_ALBEDO, S.baseR * share, S.baseG * share, S.baseB * share)
  add(at, L.BEYOND_NORMAL, S.normalX * share, S.normalY * share, S.normalZ * share)
  const object = load<i32>(record, 4)
  const material = load<i32>(record, 8)
  if (object) addCoverage(pixel + ((<usize>object) << 2), slots, S.surfaceObject + 1, share)
  if (material) addCoverage(pixel + ((<usize>material) << 2), slots, S.surfaceMaterial + 1, share)
}

/**
 * How much of the loaded surface mirrors things that can be told apart: by its roughness alone, since how bright they
 * are is the reflection's to say.
 */
function mirrorShare(): f32 {
  const t = max<f32>(0, min<f32>(1, (sqrt<f32>(S.alphaRoughness) - MIRRORS) / (SCATTERS - MIRRORS)))
  return ONE - t * t * (3 - 2 * t)
}

/**
 * Follows the current camera ray through all glass (SEEN_THROUGH) or off the first surface that mirrors (SEEN_MIRRORED)
 * to what is seen there. Strength does not count, so that what a pixel shows of a thing is told in full: Fresnel's
 * share and the tint are the light's. middle: along the pixel's middle, faces taken as smooth, the larger share only.
 */
export function followBeyond(
  scene: usize,
  render: usize,
  pixel: usize,
  which: i32,
  dimension: u32,
  middle: bool,
): void {
  const record = render + L.RENDER_BEYOND + <usize>which * L.BEYOND_STRIDE
  const slots = load<i32>(render, L.RENDER_SLOTS)
  let ox = originX
  let oy = originY
  let oz = originZ
  let dx = rayX
  let dy = rayY
  let dz = rayZ
  const slope = axial(render, 1)
  let way: f32 = 0
  let near: f32 = 0
  let weight: f32 = 1
  let left = false
  for (let turn = 0; turn < MOST_MET; turn++, dimension += 2) {
    if (!closestHit(scene, ox, oy, oz, dx, dy, dz, near, 1e30, left ? 0 : L.FLAG_HIDDEN)) return
    const distance = hitDistance
    S.loadSurface(scene, hitPlace, hitTriangle, hitU, hitV, dx, dy, dz)
    let solid = S.glass == L.GLASS_PANE ? S.opacity / S.paneShare : S.opacity
    const role = load<i32>(<usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.surfaceObject * L.OBJECT_STRIDE)
    if (role == L.ROLE_HOLDOUT && solid > 0) return
    if (middle) solid = solid >= 0.5 ? 1 : 0
    near = stepOn(distance)
    if (role == L.ROLE_CATCHER) {
      if (!(S.surfaceFlags & L.OBJECT_LETS_THROUGH)) weight *= ONE - solid
      if (weight < 1e-4) return
      continue
    }
    // What goes on is the glass's, or the mirror's; a mirror's own rest is nothing that is mirrored
    let on: f32 =
      which == L.SEEN_THROUGH ? (S.glass ? S.transmission * (ONE - S.metallic) : 0) : left ? 0 : mirrorShare()
    if (middle) on = on >= 0.5 ? 1 : 0
    const own = weight * solid * (ONE - on)
    if (own > 1e-4 && (which == L.SEEN_THROUGH || left))
      keep(pixel, record, slots, own, (way + distance) * slope, middle)
    const leaves = weight * solid * on
    const straight = weight * (ONE - solid)
    weight = leaves + straight
    if (weight < 1e-4) return
    let goes = leaves > 0 && !(which == L.SEEN_THROUGH && S.glass == L.GLASS_PANE)
    if (goes && straight > 0) {
      draw(dimension)
      goes = randomX * weight < leaves
    }
    if (!goes) continue
    M.prepare(scene, dx, dy, dz)
    if (!middle) draw(dimension + 1)
    const side = G.leaveFace(randomX, randomY, middle, which == L.SEEN_MIRRORED)
    if (side == 0) return
    dx = F.outX
    dy = F.outY
    dz = F.outZ
    if ((dx * S.geometricX + dy * S.geometricY + dz * S.geometricZ) * <f32>side <= 0) return
    const step = stepOff() * <f32>side
    ox = S.positionX + S.geometricX * step
    oy = S.positionY + S.geometricY * step
    oz = S.positionZ + S.geometricZ * step
    way += distance
    near = 0
    left = true
  }
}
