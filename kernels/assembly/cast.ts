// Shadows on all surfaces, and what wet ground mirrors of the objects.
import { plateAtSurface, plateB, plateG, plateR } from './plateAt'
import { fresnel } from './opacity'
import { ONE, HALF } from './constants'
import * as L from './layout'
import { add, stepOff } from './film'
import { followLight } from './path'
import { draw, randomX, randomY } from './random'
import { closestHit, transmittance, hitPlace, hitTriangle, hitU, hitV } from './traverse'
import * as F from './facets'
import * as G from './glass'
import * as S from './surface'
import * as M from './shading'
import * as E from './lights'
import { standAt } from './lighttree'

/**
 * Light that white matt paint on the loaded surface would get from the lights, with everything there, and without what
 * casts the shadow: all of it (on), or the chosen objects (chosen). Either block may be 0. Where nothing comes between,
 * both sums are the same to the bit.
 */
export function castShadows(scene: usize, on: usize, chosen: usize, weight: f32, dimension: u32): void {
  const step = stepOff()
  const x = S.roundX + S.geometricX * step
  const y = S.roundY + S.geometricY * step
  const z = S.roundZ + S.geometricZ * step
  const nx = S.normalX
  const ny = S.normalY
  const nz = S.normalZ
  const gx = S.isRound ? nx : S.geometricX
  const gy = S.isRound ? ny : S.geometricY
  const gz = S.isRound ? nz : S.geometricZ
  standAt(scene, x, y, z, gx, gy, gz)
  for (let turn = 0; turn < 2; turn++) {
    if (!E.drawLight(scene, turn, dimension + 40, x, y, z)) continue
    const tx = E.towardsX
    const ty = E.towardsY
    const tz = E.towardsZ
    const cosine = tx * nx + ty * ny + tz * nz
    if (cosine <= 0 || tx * gx + ty * gy + tz * gz <= 0) continue
    const gain = ((cosine * <f32>0.318309886) / E.lightDensity) * weight
    const r = E.lightR * gain
    const g = E.lightG * gain
    const b = E.lightB * gain
    const far: f32 = E.lightDistance < 1e29 ? E.lightDistance * 0.9999 - step : 1e30
    const all = transmittance(scene, x, y, z, tx, ty, tz, 0, far, 0)
    if (on) {
      add(on, L.SHADOW_WITH, r * all, g * all, b * all)
      add(on, L.SHADOW_WITHOUT, r, g, b)
    }
    if (chosen) {
      const before: f32 = all == 1 ? 1 : transmittance(scene, x, y, z, tx, ty, tz, 0, far, L.FLAG_CHOSEN)
      add(chosen, L.SHADOW_WITH, r * all, g * all, b * all)
      add(chosen, L.SHADOW_WITHOUT, r * before, g * before, b * before)
    }
  }
}

/**
 * What the loaded catcher, as if it were wet, mirrors of the objects, less what it mirrors there without them: to be
 * added to the plate. Goes into a block of light; its parts are one sum.
 */
export function mirrorObjects(
  scene: usize,
  block: usize,
  dx: f32,
  dy: f32,
  dz: f32,
  share: f32,
  maxBounces: i32,
  clamp: f32,
  dimension: u32,
): void {
  const object = <usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.surfaceObject * L.OBJECT_STRIDE
  const strength = load<f32>(object, L.OBJECT_MIRROR)
  if (strength <= 0) return
  S.polish(load<f32>(object, L.OBJECT_MIRROR_ROUGHNESS))
  M.prepare(scene, dx, dy, dz)
  draw(dimension + 9)
  if (G.leaveFace(randomX, randomY, false, true) <= 0) return
  const rx = F.outX
  const ry = F.outY
  const rz = F.outZ
  if (rx * S.geometricX + ry * S.geometricY + rz * S.geometricZ <= 0) return
  // Cosine to the small face that mirrors: half way between the two directions
  const cosine = sqrt<f32>(max<f32>(0, (ONE - (dx * rx + dy * ry + dz * rz)) * HALF))
  const step = stepOff()
  const x = S.positionX + S.geometricX * step
  const y = S.positionY + S.geometricY * step
  const z = S.positionZ + S.geometricZ * step
  const weight = share * strength * fresnel(cosine, ONE / S.ior)
  if (!closestHit(scene, x, y, z, rx, ry, rz, 0, 1e30, 0)) return
  S.loadSurface(scene, hitPlace, hitTriangle, hitU, hitV, rx, ry, rz)
  if (load<i32>(<usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.surfaceObject * L.OBJECT_STRIDE) != 0) return
  const solid = weight * S.opacity
  if (solid <= 1e-5) return
  followLight(scene, block, 0, 0, rx, ry, rz, solid, maxBounces - 1, clamp, dimension + 24)
  if (closestHit(scene, x, y, z, rx, ry, rz, 0, 1e30, L.FLAG_SYNTHETIC)) {
    S.loadSurface(scene, hitPlace, hitTriangle, hitU, hitV, rx, ry, rz)
    if (!(S.surfaceFlags & L.OBJECT_PLATE)) return
    plateAtSurface(scene)
    add(block, L.LIGHT_EMISSION, -plateR * solid, -plateG * solid, -plateB * solid)
  } else {
    E.environmentFrom(scene, rx, ry, rz)
    add(block, L.LIGHT_EMISSION, -E.lightR * solid, -E.lightG * solid, -E.lightB * solid)
  }
}
