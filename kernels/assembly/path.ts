// Light along paths that leave the first surface of a camera ray. Every contribution goes to exactly one of the light
// passes, so that they add up to the beauty by construction.
import { plateAtSurface, plateB, plateG, plateR } from './plateAt'
import { ONE } from './constants'
import { skyDensityTowards } from './environment'
import * as L from './layout'
import { add, clampScale, stepOff, stepOn } from './film'
import { draw, randomX, randomY } from './random'
import { closestHit, transmittance, hitDistance, hitPlace, hitTriangle, hitU, hitV } from './traverse'
import * as S from './surface'
import * as F from './facets'
import * as M from './shading'
import * as E from './lights'
import { emissiveDensity, standAt } from './lighttree'

/** Thin layers and cut-outs that one ray passes at most. */
export const MAX_LAYERS = 16

// The path carries two weights, for what left the first surface by its diffuse and by its specular lobe.
let weightDR: f32 = 0
let weightDG: f32 = 0
let weightDB: f32 = 0
let weightSR: f32 = 0
let weightSG: f32 = 0
let weightSB: f32 = 0

// And a third for what left it by its diffuse lobe whatever its colour: raw light
let weightRawR: f32 = 0
let weightRawG: f32 = 0
let weightRawB: f32 = 0
// Where light is kept by group, and raw light; 0 where it is not
let groupsAt: usize = 0
let rawAt: usize = 0


@inline
function scaleWeights(r: f32, g: f32, b: f32): void {
  weightDR *= r
  weightDG *= g
  weightDB *= b
  weightSR *= r
  weightSG *= g
  weightSB *= b
  weightRawR *= r
  weightRawG *= g
  weightRawB *= b
}

/** Things of these flags are not there for the path. */
let without: i32 = 0
/** Whether the path met anything, or was shaded by anything, that might not be there. */
export let touched: bool = false

/** Whether the path left the first surface through it; its light is the refraction then. */
let throughGlass: bool = false
// What the medium that the path is in takes away, a metre; 0 in the air
let mediumR: f32 = 0
let mediumG: f32 = 0
let mediumB: f32 = 0
/** Density that stands for directions which no other way of sampling would find. */
const ONLY: f32 = 1e18

/** Adds what light `at` the prepared surface sends back from one sample of each kind of light, split by lobe. */
function gatherDirect(scene: usize, light: usize, dimension: u32, first: bool, clamp: f32): void {
  const step = stepOff()
  const x = S.roundX + S.geometricX * step
  const y = S.roundY + S.geometricY * step
  const z = S.roundZ + S.geometricZ * step
  // A round surface is lit as far as its normal says, past where its triangle turns away
  const gx = S.isRound ? S.normalX : S.geometricX
  const gy = S.isRound ? S.normalY : S.geometricY
  const gz = S.isRound ? S.normalZ : S.geometricZ
  standAt(scene, x, y, z, gx, gy, gz)
  for (let turn = 0; turn < 2; turn++) {
    if (!E.drawLight(scene, turn, dimension, x, y, z)) continue
    const tx = E.towardsX
    const ty = E.towardsY
    const tz = E.towardsZ
    if (tx * gx + ty * gy + tz * gz <= 0) continue
    M.evaluate(tx, ty, tz)
    if (M.lobeDensity <= 0) continue
    const density = E.lightDensity
    if (turn == 1 && E.lightIsSynthetic) {
      touched = true
      if (without) continue
    }
    const isPoint = turn == 1 && E.lightPointLike
    const weight: f32 = isPoint ? 1 : density / (density * density + M.lobeDensity * M.lobeDensity)
    const r = E.lightR * weight
    const g = E.lightG * weight
    const b = E.lightB * weight
    const matt = M.mattShare * M.lobeDiffuse
    if (
      !(
        (M.diffuseR * M.lobeDiffuse + M.lobeR) * r +
          (M.diffuseG * M.lobeDiffuse + M.lobeG) * g +
          (M.diffuseB * M.lobeDiffuse + M.lobeB) * b >
        0
      ) &&
      !(rawAt && first && matt * (r + g + b) > 0)
    )
      continue
    const far: f32 = E.lightDistance < 1e29 ? E.lightDistance * 0.9999 - step : 1e30
    const through = transmittance(scene, x, y, z, tx, ty, tz, 0, far, without)
    if (through != 1) touched = true
    if (through <= 0) continue
    deposit(light, first, r * through, g * through, b * through, clamp)
  }
}

/** Begins to follow light anew, with things of these flags not there. */
export function followWithout(flags: i32): void {
  without = flags
  touched = false
}

/** Puts light r, g, b that the current surface gets, and sends by its evaluated lobes, into the passes. */
@inline
function deposit(light: usize, first: bool, r: f32, g: f32, b: f32, clamp: f32): void {
  const matt = M.lobeDiffuse
  const dr = M.diffuseR * matt * r
  const dg = M.diffuseG * matt * g
  const db = M.diffuseB * matt * b
  const sr = M.lobeR * r
  const sg = M.lobeG * g
  const sb = M.lobeB * b
  if (first) {
    const scale = clampScale(
      weightDR * dr + weightSR * sr,
      weightDG * dg + weightSG * sg,
      weightDB * db + weightSB * sb,
      0,
    )
    add(light, L.LIGHT_DIFFUSE_DIRECT, weightDR * dr * scale, weightDG * dg * scale, weightDB * db * scale)
    add(light, L.LIGHT_REFLECTION, weightSR * sr * scale, weightSG * sg * scale, weightSB * sb * scale)
    if (groupsAt)
      add(
        groupsAt,
        E.lightGroup * 3,
        (weightDR * dr + weightSR * sr) * scale,
        (weightDG * dg + weightSG * sg) * scale,
        (weightDB * db + weightSB * sb) * scale,
      )
    if (rawAt) {
      const own = M.mattShare * matt * scale
      add(rawAt, L.RAW_DIRECT, weightRawR * r * own, weightRawG * g * own, weightRawB * b * own)
    }
  } else depositAt(light, L.LIGHT_DIFFUSE_INDIRECT, L.RAW_INDIRECT, E.lightGroup, dr + sr, dg + sg, db + sb, clamp)
}

/** Puts light that comes along the path into the passes. */
function depositAt(light: usize, part: usize, raw: usize, group: i32, r: f32, g: f32, b: f32, clamp: f32): void {
  const scale = clampScale((weightDR + weightSR) * r, (weightDG + weightSG) * g, (weightDB + weightSB) * b, clamp)
  add(light, part, weightDR * r * scale, weightDG * g * scale, weightDB * b * scale)
  add(
    light,
    throughGlass ? L.LIGHT_REFRACTION : L.LIGHT_REFLECTION,
    weightSR * r * scale,
    weightSG * g * scale,
    weightSB * b * scale,
  )
  if (groupsAt)
    add(
      groupsAt,
      group * 3,
      (weightDR + weightSR) * r * scale,
      (weightDG + weightSG) * g * scale,
      (weightDB + weightSB) * b * scale,
    )
  if (rawAt) add(rawAt, raw, weightRawR * r * scale, weightRawG * g * scale, weightRawB * b * scale)
}

/**
 * Light met by a ray that left the previous surface with the given density: goes to direct when that surface was the
 * first.
 */
@inline
function depositMet(light: usize, bounce: i32, group: i32, r: f32, g: f32, b: f32, clamp: f32): void {
  if (bounce == 1) depositAt(light, L.LIGHT_DIFFUSE_DIRECT, L.RAW_DIRECT, group, r, g, b, 0)
  else depositAt(light, L.LIGHT_DIFFUSE_INDIRECT, L.RAW_INDIRECT, group, r, g, b, clamp)
}

/**
 * Follows the light of one camera hit whose surface is loaded; dx, dy, dz is the camera ray, weight its share of the
 * pixel.
 */
export function followLight(
  scene: usize,
  light: usize,
  groups: usize,
  raw: usize,
  dx: f32,
  dy: f32,
  dz: f32,
  weight: f32,
  maxBounces: i32,
  clamp: f32,
  dimension: u32,
): void {
  groupsAt = groups
  rawAt = raw
  if (S.emissionR + S.emissionG + S.emissionB > 0) {
    add(light, L.LIGHT_EMISSION, S.emissionR * weight, S.emissionG * weight, S.emissionB * weight)
    if (groups) add(groups, groupOfSurface(scene) * 3, S.emissionR * weight, S.emissionG * weight, S.emissionB * weight)
  }
  weightDR = weight
  weightDG = weight
  weightDB = weight
  weightSR = weight
  weightSG = weight
  weightSB = weight
  weightRawR = weight
  weightRawG = weight
  weightRawB = weight
  throughGlass = false
  mediumR = 0
  mediumG = 0
  mediumB = 0
  let bounce = 0
  while (true) {
    M.prepare(scene, dx, dy, dz)
    if (M.sendsNothing && !rawAt) return
    M.walkOn(bounce > 0)
    gatherDirect(scene, light, dimension, bounce == 0, clamp)
    let density = ONLY
    let side: f32 = 1
    let choice: f32 = 0
    if (M.transmitWeight > 0) {
      draw(dimension + 22)
      choice = randomX
    }
    draw(dimension + 3)
    const share = M.sampleLobes(randomX, randomY, choice)
    if (share >= 0) {
      dx = F.outX
      dy = F.outY
      dz = F.outZ
      if (share == 0 || dx * S.geometricX + dy * S.geometricY + dz * S.geometricZ >= 0) return
      side = -1
      const r = S.baseR * share
      const g = S.baseG * share
      const b = S.baseB * share
      if (bounce == 0) {
        throughGlass = true
        weightDR = 0
        weightDG = 0
        weightDB = 0
        weightRawR = 0
        weightRawG = 0
        weightRawB = 0
      }
      scaleWeights(r, g, b)
      if (S.glass == L.GLASS_SOLID) {
        const into: f32 = S.backFacing ? 0 : 1
        mediumR = S.absorbR * into
        mediumG = S.absorbG * into
        mediumB = S.absorbB * into
      }
    } else {
      dx = F.outX
      dy = F.outY
      dz = F.outZ
      if (!S.isRound && dx * S.geometricX + dy * S.geometricY + dz * S.geometricZ <= 0) return
      M.evaluate(dx, dy, dz)
      density = M.lobeDensity
      if (density <= 1e-12) return
      // The density counts how likely it was to stay on this side; the light need not
      const inverse = ONE / density
      const diffuse = M.lobeDiffuse * inverse
      const sr = M.lobeR * inverse
      const sg = M.lobeG * inverse
      const sb = M.lobeB * inverse
      if (bounce == 0) {
        weightDR *= M.diffuseR * diffuse
        weightDG *= M.diffuseG * diffuse
        weightDB *= M.diffuseB * diffuse
        weightSR *= sr
        weightSG *= sg
        weightSB *= sb
        const matt = M.mattShare * diffuse
        weightRawR *= matt
        weightRawG *= matt
        weightRawB *= matt
      } else scaleWeights(M.diffuseR * diffuse + sr, M.diffuseG * diffuse + sg, M.diffuseB * diffuse + sb)
    }
    bounce++
    let largest = max(max(weightDR + weightSR, weightDG + weightSG), weightDB + weightSB) / weight
    if (rawAt) largest = max(largest, max(weightRawR, max(weightRawG, weightRawB)) / weight)
    if (!(largest > 1e-6)) return
    if (bounce >= 3 && largest < 0.7) {
      draw(dimension + 4)
      if (randomX >= largest) return
      const scale = ONE / largest
      scaleWeights(scale, scale, scale)
    }
    // Next surface; thin layers and cut-outs are passed by chance in proportion to their opacity
    const step = stepOff() * side
    const ox = S.roundX + S.geometricX * step
    const oy = S.roundY + S.geometricY * step
    const oz = S.roundZ + S.geometricZ * step
    let near: f32 = 0
    let solid = false
    for (let layer = 0; layer < MAX_LAYERS; layer++) {
      if (!closestHit(scene, ox, oy, oz, dx, dy, dz, near, 1e30, without)) break
      const distance = hitDistance
      S.loadSurface(scene, hitPlace, hitTriangle, hitU, hitV, dx, dy, dz)
      if (isObject(scene)) touched = true
      if (S.opacity >= 1) {
        solid = true
        hitAt = distance
        break
      }
      draw(dimension + 5 + layer)
      if (randomX < S.opacity) {
        solid = true
        hitAt = distance
        break
      }
      near = stepOn(distance)
    }
    const far: f32 = solid ? hitAt : 1e30
    if (solid && mediumR + mediumG + mediumB > 0) {
      // Beer and Lambert
      scaleWeights(Mathf.exp(-mediumR * far), Mathf.exp(-mediumG * far), Mathf.exp(-mediumB * far))
    }
    for (
      let next = E.lightMet(scene, 0, ox, oy, oz, dx, dy, dz, far, density);
      next > 0;
      next = E.lightMet(scene, next, ox, oy, oz, dx, dy, dz, far, density)
    )
      depositMet(light, bounce, E.lightGroup, E.lightR, E.lightG, E.lightB, clamp)
    if (!solid) {
      if (load<u32>(scene, L.SCENE_ENVIRONMENT)) {
        E.environmentFrom(scene, dx, dy, dz)
        const other = skyDensityTowards(scene, dy)
        const share = (density * density) / (density * density + other * other)
        depositMet(
          light,
          bounce,
          load<i32>(scene, L.SCENE_ENVIRONMENT_GROUP),
          E.lightR * share,
          E.lightG * share,
          E.lightB * share,
          clamp,
        )
      }
      return
    }
    if (S.surfaceFlags & L.OBJECT_PLATE) {
      // A stand-in for something in the plate: the light that it sends is what the plate shows of it
      plateAtSurface(scene)
      depositMet(light, bounce, load<i32>(scene, L.SCENE_PLATE_GROUP), plateR, plateG, plateB, clamp)
      return
    }
    if (S.emissionR + S.emissionG + S.emissionB > 0) {
      let share: f32 = 1
      if (S.surfaceLight >= 0) {
        const cosine = abs(S.geometricX * dx + S.geometricY * dy + S.geometricZ * dz)
        const other = emissiveDensity(scene, S.surfaceLight, far, cosine)
        share = (density * density) / (density * density + other * other)
      }
      depositMet(
        light,
        bounce,
        groupOfSurface(scene),
        S.emissionR * share,
        S.emissionG * share,
        S.emissionB * share,
        clamp,
      )
    }
    // The last surface has met its light by both ways of finding it, and sends on no more
    if (bounce > maxBounces) return
    dimension += 24
  }
}
let hitAt: f32 = 0

/** Whether the loaded surface is of a thing that is rendered, rather than of a stand-in. */
@inline
function isObject(scene: usize): bool {
  return load<i32>(<usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.surfaceObject * L.OBJECT_STRIDE) == 0
}

/** Group that the loaded surface's own light counts in. */
@inline
function groupOfSurface(scene: usize): i32 {
  return load<i32>(<usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.surfaceObject * L.OBJECT_STRIDE, L.OBJECT_GROUP)
}
