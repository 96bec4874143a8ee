// Shadow catchers: light on real ground with the objects there, and without them.
import { ONE } from './constants'
import * as L from './layout'
import { add, clampScale, stepOff } from './film'
import { draw, randomX, randomY } from './random'
import { closestHit, transmittance, hitDistance, hitPlace, hitTriangle, hitU, hitV } from './traverse'
import * as F from './facets'
import * as S from './surface'
import * as M from './shading'
import * as E from './lights'
import { standAt } from './lighttree'

/**
 * Shadow ratio at a catcher: what a white matt ground would send with everything there, and with only the stand-ins
 * there, from the same random numbers. Where no object comes between, both sums are the same to the bit. Light of
 * emissive objects and light bounced by objects counts as "with".
 */
export function followShadow(scene: usize, shadow: usize, weight: f32, dimension: u32, clamp: f32): void {
  const step = stepOff()
  const nx = S.normalX
  const ny = S.normalY
  const nz = S.normalZ
  store<f32>(shadow, load<f32>(shadow, L.SHADOW_SHARE << 2) + weight, L.SHADOW_SHARE << 2)
  const x = S.positionX + S.geometricX * step
  const y = S.positionY + S.geometricY * step
  const z = S.positionZ + S.geometricZ * step
  standAt(scene, x, y, z, nx, ny, nz)
  for (let turn = 0; turn < 2; turn++) {
    if (!E.drawLight(scene, turn, dimension, x, y, z)) continue
    const cosine = E.towardsX * nx + E.towardsY * ny + E.towardsZ * nz
    if (cosine <= 0) continue
    const density = E.lightDensity
    const own = cosine * <f32>0.318309886
    const share: f32 = turn == 1 && E.lightPointLike ? 1 : density / (density * density + own * own)
    const gain = share * own * weight
    const synthetic = turn == 1 && E.lightIsSynthetic
    const r = E.lightR * gain
    const g = E.lightG * gain
    const b = E.lightB * gain
    const far: f32 = E.lightDistance < 1e29 ? E.lightDistance * 0.9999 - step : 1e30
    const tx = E.towardsX
    const ty = E.towardsY
    const tz = E.towardsZ
    const all = transmittance(scene, x, y, z, tx, ty, tz, 0, far, 0)
    if (all > 0) add(shadow, L.SHADOW_WITH, r * all, g * all, b * all)
    if (!synthetic) {
      const before: f32 = all == 1 ? 1 : transmittance(scene, x, y, z, tx, ty, tz, 0, far, L.FLAG_SYNTHETIC)
      if (before > 0) add(shadow, L.SHADOW_WITHOUT, r * before, g * before, b * before)
    }
  }
  // The other half of the estimate: a ray by the cosine, which also brings back one bounce off objects
  draw(dimension + 3)
  F.sampleCosine(randomX, randomY)
  const dx = F.outX
  const dy = F.outY
  const dz = F.outZ
  if (dx * S.geometricX + dy * S.geometricY + dz * S.geometricZ <= 0) return
  const density = (dx * nx + dy * ny + dz * nz) * <f32>0.318309886
  if (density <= 1e-9) return
  const hit = closestHit(scene, x, y, z, dx, dy, dz, 0, 1e30, 0)
  const distance: f32 = hit ? hitDistance : 1e30
  const place = hitPlace
  const triangle = hitTriangle
  const u = hitU
  const v = hitV
  let met = E.lightsMet(scene, x, y, z, dx, dy, dz, distance, density)
  if (met) {
    add(shadow, L.SHADOW_WITH, E.lightR * weight, E.lightG * weight, E.lightB * weight)
  }
  if (!hit) {
    if (met) add(shadow, L.SHADOW_WITHOUT, E.lightR * weight, E.lightG * weight, E.lightB * weight)
    if (load<u32>(scene, L.SCENE_ENVIRONMENT)) {
      E.environmentFrom(scene, dx, dy, dz)
      const other = E.environmentDensity(scene, dy)
      const share = ((density * density) / (density * density + other * other)) * weight
      add(shadow, L.SHADOW_WITH, E.lightR * share, E.lightG * share, E.lightB * share)
      add(shadow, L.SHADOW_WITHOUT, E.lightR * share, E.lightG * share, E.lightB * share)
    }
    return
  }
  const role = load<i32>(
    <usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.objectOf(scene, place, triangle) * L.OBJECT_STRIDE,
  )
  // What the ray would have met without the objects
  const hitBefore = role != 0 ? true : closestHit(scene, x, y, z, dx, dy, dz, 0, 1e30, L.FLAG_SYNTHETIC)
  const distanceBefore: f32 = role != 0 ? distance : hitBefore ? hitDistance : <f32>1e30
  met = E.lightsMet(scene, x, y, z, dx, dy, dz, distanceBefore, density)
  if (met) add(shadow, L.SHADOW_WITHOUT, E.lightR * weight, E.lightG * weight, E.lightB * weight)
  let pass: f32 = 0
  if (role == 0) {
    // Light that comes back from the object, and what shines through it where it is not solid
    S.loadSurface(scene, place, triangle, u, v, dx, dy, dz)
    const solidity = S.opacity
    if (solidity < 1) pass = transmittance(scene, x, y, z, dx, dy, dz, 0, 1e30, 0)
    if (S.emissionR + S.emissionG + S.emissionB > 0) {
      let share: f32 = solidity
      if (S.surfaceLight >= 0) {
        const cosine = abs(S.geometricX * dx + S.geometricY * dy + S.geometricZ * dz)
        const other = E.emissiveDensity(scene, S.surfaceLight, distance, cosine)
        share *= (density * density) / (density * density + other * other)
      }
      share *= weight
      add(shadow, L.SHADOW_WITH, S.emissionR * share, S.emissionG * share, S.emissionB * share)
    }
    bounceInto(scene, shadow, dx, dy, dz, weight * solidity, dimension + 8, clamp)
  }
  if (!hitBefore && load<u32>(scene, L.SCENE_ENVIRONMENT)) {
    E.environmentFrom(scene, dx, dy, dz)
    const other = E.environmentDensity(scene, dy)
    const share = ((density * density) / (density * density + other * other)) * weight
    add(shadow, L.SHADOW_WITHOUT, E.lightR * share, E.lightG * share, E.lightB * share)
    if (pass > 0) add(shadow, L.SHADOW_WITH, E.lightR * share * pass, E.lightG * share * pass, E.lightB * share * pass)
  }
}

/** One bounce of light off the loaded object surface back to the catcher. */
function bounceInto(
  scene: usize,
  shadow: usize,
  dx: f32,
  dy: f32,
  dz: f32,
  weight: f32,
  dimension: u32,
  clamp: f32,
): void {
  M.prepare(scene, dx, dy, dz)
  const step = stepOff()
  const x = S.positionX + S.geometricX * step
  const y = S.positionY + S.geometricY * step
  const z = S.positionZ + S.geometricZ * step
  const gx = S.geometricX
  const gy = S.geometricY
  const gz = S.geometricZ
  standAt(scene, x, y, z, gx, gy, gz)
  for (let turn = 0; turn < 2; turn++) {
    if (!E.drawLight(scene, turn, dimension, x, y, z) || E.towardsX * gx + E.towardsY * gy + E.towardsZ * gz <= 0)
      continue
    M.evaluate(E.towardsX, E.towardsY, E.towardsZ)
    if (M.lobeDensity <= 0) continue
    const isPoint = turn == 1 && E.lightPointLike
    const share = (isPoint ? ONE : ONE / E.lightDensity) * weight
    const r = E.lightR * share
    const g = E.lightG * share
    const b = E.lightB * share
    const far: f32 = E.lightDistance < 1e29 ? E.lightDistance * 0.9999 - step : 1e30
    const through = transmittance(scene, x, y, z, E.towardsX, E.towardsY, E.towardsZ, 0, far, 0)
    if (through <= 0) continue
    const cr = M.diffuseR * M.lobeDiffuse * r * through
    const cg = M.diffuseG * M.lobeDiffuse * g * through
    const cb = M.diffuseB * M.lobeDiffuse * b * through
    const scale = clampScale(cr, cg, cb, clamp)
    add(shadow, L.SHADOW_WITH, cr * scale, cg * scale, cb * scale)
  }
}
