// The path tracer: one row of pixels at a time into the accumulator. Every contribution goes to exactly one of the five
// light passes, so that they add up to the beauty by construction.
import { ONE, HALF } from './constants'
import * as L from './layout'
import { startSample, draw, randomX, randomY } from './random'
import { closestHit, transmittance, hitDistance, hitTriangle, hitU, hitV } from './traverse'
import * as S from './surface'
import * as M from './shading'
import * as E from './lights'

const MAX_LAYERS = 16

let lightSumR: f32 = 0, lightSumG: f32 = 0, lightSumB: f32 = 0
// The path carries two weights, for what left the first surface by its diffuse and by its specular lobe.
let weightDR: f32 = 0, weightDG: f32 = 0, weightDB: f32 = 0
let weightSR: f32 = 0, weightSG: f32 = 0, weightSB: f32 = 0

@inline function add(pixel: usize, field: usize, r: f32, g: f32, b: f32): void {
  const at = pixel + (field << 2)
  store<f32>(at, load<f32>(at) + r)
  store<f32>(at, load<f32>(at, 4) + g, 4)
  store<f32>(at, load<f32>(at, 8) + b, 8)
}

@inline function clampScale(r: f32, g: f32, b: f32, limit: f32): f32 {
  const top = max(r, max(g, b))
  // NaN falls through to 0: one bad sample must not blacken a pixel for ever
  return top >= 0 && top < 1e30 ? (limit > 0 && top > limit ? limit / top : 1) : 0
}

/** Distance to step off a surface: grows with the coordinates, whose precision it must clear. */
@inline function stepOff(): f32 {
  return 2e-5 * max<f32>(1, max(abs(S.positionX), max(abs(S.positionY), abs(S.positionZ))))
}

/** Adds what light `at` the prepared surface sends back from one sample of each kind of light, split by lobe. */
function gatherDirect(scene: usize, pixel: usize, dimension: u32, first: bool, clamp: f32): void {
  const step = stepOff()
  const x = S.positionX + S.geometricX * step, y = S.positionY + S.geometricY * step, z = S.positionZ + S.geometricZ * step
  const gx = S.geometricX, gy = S.geometricY, gz = S.geometricZ
  for (let turn = 0; turn < 2; turn++) {
    let found = false
    if (turn == 0) {
      draw(dimension)
      found = E.sampleEnvironment(scene, randomX, randomY)
    } else {
      draw(dimension + 1)
      const pick = randomX
      draw(dimension + 2)
      found = E.sampleLight(scene, x, y, z, pick, randomX, randomY)
    }
    if (!found) continue
    const tx = E.towardsX, ty = E.towardsY, tz = E.towardsZ
    if (tx * gx + ty * gy + tz * gz <= 0) continue
    M.evaluate(tx, ty, tz)
    if (M.lobeDensity <= 0) continue
    const density = E.lightDensity
    const isPoint = turn == 1 && E.lightPointLike
    const weight: f32 = isPoint ? 1 : density / (density * density + M.lobeDensity * M.lobeDensity)
    let r = E.lightR * weight, g = E.lightG * weight, b = E.lightB * weight
    const dr = M.diffuseR * M.lobeDiffuse * r, dg = M.diffuseG * M.lobeDiffuse * g, db = M.diffuseB * M.lobeDiffuse * b
    const sr = M.lobeR * r, sg = M.lobeG * g, sb = M.lobeB * b
    if (dr + dg + db + sr + sg + sb <= 0) continue
    const far: f32 = E.lightDistance < 1e29 ? E.lightDistance * 0.9999 - step : 1e30
    const through = transmittance(scene, x, y, z, tx, ty, tz, 0, far, 0)
    if (through <= 0) continue
    deposit(pixel, first, dr * through, dg * through, db * through, sr * through, sg * through, sb * through, clamp)
  }
}

/** Puts light that the current surface sends (d by its diffuse lobe, s by its specular lobe) into the passes. */
@inline function deposit(pixel: usize, first: bool, dr: f32, dg: f32, db: f32, sr: f32, sg: f32, sb: f32, clamp: f32): void {
  if (first) {
    const scale = clampScale(weightDR * dr + weightSR * sr, weightDG * dg + weightSG * sg, weightDB * db + weightSB * sb, 0)
    add(pixel, L.PIXEL_DIFFUSE_DIRECT, weightDR * dr * scale, weightDG * dg * scale, weightDB * db * scale)
    add(pixel, L.PIXEL_REFLECTION, weightSR * sr * scale, weightSG * sg * scale, weightSB * sb * scale)
  } else {
    const r = dr + sr, g = dg + sg, b = db + sb
    const scale = clampScale((weightDR + weightSR) * r, (weightDG + weightSG) * g, (weightDB + weightSB) * b, clamp)
    add(pixel, L.PIXEL_DIFFUSE_INDIRECT, weightDR * r * scale, weightDG * g * scale, weightDB * b * scale)
    add(pixel, L.PIXEL_REFLECTION, weightSR * r * scale, weightSG * g * scale, weightSB * b * scale)
  }
}

/** Light met by a ray that left the previous surface with the given density: goes to direct when that surface was the first. */
@inline function depositMet(pixel: usize, bounce: i32, r: f32, g: f32, b: f32, clamp: f32): void {
  const scale = clampScale((weightDR + weightSR) * r, (weightDG + weightSG) * g, (weightDB + weightSB) * b, bounce > 1 ? clamp : 0)
  add(pixel, bounce == 1 ? L.PIXEL_DIFFUSE_DIRECT : L.PIXEL_DIFFUSE_INDIRECT, weightDR * r * scale, weightDG * g * scale, weightDB * b * scale)
  add(pixel, L.PIXEL_REFLECTION, weightSR * r * scale, weightSG * g * scale, weightSB * b * scale)
}

/** Follows the light of one camera hit whose surface is loaded; dx, dy, dz is the camera ray, weight its share of the pixel. */
function followLight(scene: usize, pixel: usize, dx: f32, dy: f32, dz: f32, weight: f32, maxBounces: i32, clamp: f32, dimension: u32): void {
  if (S.emissionR + S.emissionG + S.emissionB > 0) add(pixel, L.PIXEL_EMISSION, S.emissionR * weight, S.emissionG * weight, S.emissionB * weight)
  weightDR = weight; weightDG = weight; weightDB = weight
  weightSR = weight; weightSG = weight; weightSB = weight
  let bounce = 0
  while (true) {
    M.prepare(scene, dx, dy, dz)
    gatherDirect(scene, pixel, dimension, bounce == 0, clamp)
    if (bounce >= maxBounces) return
    draw(dimension + 3)
    M.sampleLobes(randomX, randomY)
    dx = M.outX; dy = M.outY; dz = M.outZ
    if (dx * S.geometricX + dy * S.geometricY + dz * S.geometricZ <= 0) return
    M.evaluate(dx, dy, dz)
    const density = M.lobeDensity
    if (density <= 1e-12) return
    const inverse = ONE / density
    const diffuse = M.lobeDiffuse * inverse
    const sr = M.lobeR * inverse, sg = M.lobeG * inverse, sb = M.lobeB * inverse
    if (bounce == 0) {
      weightDR *= M.diffuseR * diffuse; weightDG *= M.diffuseG * diffuse; weightDB *= M.diffuseB * diffuse
      weightSR *= sr; weightSG *= sg; weightSB *= sb
    } else {
      const r = M.diffuseR * diffuse + sr, g = M.diffuseG * diffuse + sg, b = M.diffuseB * diffuse + sb
      weightDR *= r; weightDG *= g; weightDB *= b
      weightSR *= r; weightSG *= g; weightSB *= b
    }
    bounce++
    const largest = max(max(weightDR + weightSR, weightDG + weightSG), weightDB + weightSB) / weight
    if (!(largest > 1e-6)) return
    if (bounce >= 3 && largest < 0.7) {
      draw(dimension + 4)
      if (randomX >= largest) return
      const scale = ONE / largest
      weightDR *= scale; weightDG *= scale; weightDB *= scale
      weightSR *= scale; weightSG *= scale; weightSB *= scale
    }
    // Next surface; thin layers and cut-outs are passed by chance in proportion to their opacity
    const step = stepOff()
    let ox = S.positionX + S.geometricX * step, oy = S.positionY + S.geometricY * step, oz = S.positionZ + S.geometricZ * step
    let near: f32 = 0
    let solid = false
    for (let layer = 0; layer < MAX_LAYERS; layer++) {
      if (!closestHit(scene, ox, oy, oz, dx, dy, dz, near, 1e30, 0)) break
      const distance = hitDistance
      S.loadSurface(scene, hitTriangle, hitU, hitV, dx, dy, dz)
      if (S.opacity >= 1) { solid = true; hitAt = distance; break }
      draw(dimension + 5 + layer)
      if (randomX < S.opacity) { solid = true; hitAt = distance; break }
      near = distance + stepOff()
    }
    const far: f32 = solid ? hitAt : 1e30
    if (E.lightsMet(scene, ox, oy, oz, dx, dy, dz, far, density)) depositMet(pixel, bounce, E.lightR, E.lightG, E.lightB, clamp)
    if (!solid) {
      if (load<u32>(scene, L.SCENE_ENVIRONMENT)) {
        E.environmentFrom(scene, dx, dy, dz)
        const other = E.environmentDensity(scene, dx, dy, dz)
        const share = density * density / (density * density + other * other)
        depositMet(pixel, bounce, E.lightR * share, E.lightG * share, E.lightB * share, clamp)
      }
      return
    }
    if (S.surfaceFlags & L.OBJECT_PLATE) {
      // A stand-in for something in the plate: the light that it sends is what the plate shows of it
      S.plateAtSurface(scene)
      depositMet(pixel, bounce, S.plateR, S.plateG, S.plateB, clamp)
      return
    }
    if (S.emissionR + S.emissionG + S.emissionB > 0) {
      let share: f32 = 1
      if (S.surfaceLight >= 0) {
        const cosine = abs(S.geometricX * dx + S.geometricY * dy + S.geometricZ * dz)
        const other = E.emissiveDensity(scene, S.surfaceLight, far, cosine)
        share = density * density / (density * density + other * other)
      }
      depositMet(pixel, bounce, S.emissionR * share, S.emissionG * share, S.emissionB * share, clamp)
    }
    dimension += 24
  }
}
let hitAt: f32 = 0

/**
 * Shadow ratio at a catcher: what a white matt ground would send with everything there, and with only the stand-ins there,
 * from the same random numbers. Where no object comes between, both sums are the same to the bit. Light of emissive objects and
 * light bounced by objects counts as "with".
 */
function followShadow(scene: usize, pixel: usize, weight: f32, dimension: u32, clamp: f32): void {
  const step = stepOff()
  const nx = S.normalX, ny = S.normalY, nz = S.normalZ
  const x = S.positionX + S.geometricX * step, y = S.positionY + S.geometricY * step, z = S.positionZ + S.geometricZ * step
  for (let turn = 0; turn < 2; turn++) {
    let found = false
    if (turn == 0) {
      draw(dimension)
      found = E.sampleEnvironment(scene, randomX, randomY)
    } else {
      draw(dimension + 1)
      const pick = randomX
      draw(dimension + 2)
      found = E.sampleLight(scene, x, y, z, pick, randomX, randomY)
    }
    if (!found) continue
    const cosine = E.towardsX * nx + E.towardsY * ny + E.towardsZ * nz
    if (cosine <= 0) continue
    const density = E.lightDensity
    const own = cosine * <f32>0.318309886
    const share: f32 = turn == 1 && E.lightPointLike ? 1 : density / (density * density + own * own)
    const gain = share * own * weight
    const synthetic = turn == 1 && E.lightIsSynthetic
    const r = E.lightR * gain, g = E.lightG * gain, b = E.lightB * gain
    const far: f32 = E.lightDistance < 1e29 ? E.lightDistance * 0.9999 - step : 1e30
    const tx = E.towardsX, ty = E.towardsY, tz = E.towardsZ
    const all = transmittance(scene, x, y, z, tx, ty, tz, 0, far, 0)
    if (all > 0) add(pixel, L.PIXEL_SHADOW_WITH, r * all, g * all, b * all)
    if (!synthetic) {
      const before: f32 = all == 1 ? 1 : transmittance(scene, x, y, z, tx, ty, tz, 0, far, L.FLAG_SYNTHETIC)
      if (before > 0) add(pixel, L.PIXEL_SHADOW_WITHOUT, r * before, g * before, b * before)
    }
  }
  // The other half of the estimate: a ray by the cosine, which also brings back one bounce off objects
  draw(dimension + 3)
  M.sampleCosine(randomX, randomY)
  const dx = M.outX, dy = M.outY, dz = M.outZ
  if (dx * S.geometricX + dy * S.geometricY + dz * S.geometricZ <= 0) return
  const density = (dx * nx + dy * ny + dz * nz) * <f32>0.318309886
  if (density <= 1e-9) return
  const hit = closestHit(scene, x, y, z, dx, dy, dz, 0, 1e30, 0)
  const distance: f32 = hit ? hitDistance : 1e30
  const triangle = hitTriangle, u = hitU, v = hitV
  let met = E.lightsMet(scene, x, y, z, dx, dy, dz, distance, density)
  if (met) {
    add(pixel, L.PIXEL_SHADOW_WITH, E.lightR * weight, E.lightG * weight, E.lightB * weight)
  }
  if (!hit) {
    if (met) add(pixel, L.PIXEL_SHADOW_WITHOUT, E.lightR * weight, E.lightG * weight, E.lightB * weight)
    if (load<u32>(scene, L.SCENE_ENVIRONMENT)) {
      E.environmentFrom(scene, dx, dy, dz)
      const other = E.environmentDensity(scene, dx, dy, dz)
      const share = density * density / (density * density + other * other) * weight
      add(pixel, L.PIXEL_SHADOW_WITH, E.lightR * share, E.lightG * share, E.lightB * share)
      add(pixel, L.PIXEL_SHADOW_WITHOUT, E.lightR * share, E.lightG * share, E.lightB * share)
    }
    return
  }
  const record = <usize>load<u32>(scene, L.SCENE_TRIANGLES) + <usize>triangle * L.TRIANGLE_STRIDE
  const role = load<i32>(<usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>load<u32>(record, 12) * L.OBJECT_STRIDE)
  // What the ray would have met without the objects
  const hitBefore = role != 0 ? true : closestHit(scene, x, y, z, dx, dy, dz, 0, 1e30, L.FLAG_SYNTHETIC)
  const distanceBefore: f32 = role != 0 ? distance : (hitBefore ? hitDistance : <f32>1e30)
  met = E.lightsMet(scene, x, y, z, dx, dy, dz, distanceBefore, density)
  if (met) add(pixel, L.PIXEL_SHADOW_WITHOUT, E.lightR * weight, E.lightG * weight, E.lightB * weight)
  let pass: f32 = 0
  if (role == 0) {
    // Light that comes back from the object, and what shines through it where it is not solid
    S.loadSurface(scene, triangle, u, v, dx, dy, dz)
    const solidity = S.opacity
    if (solidity < 1) pass = transmittance(scene, x, y, z, dx, dy, dz, 0, 1e30, 0)
    if (S.emissionR + S.emissionG + S.emissionB > 0) {
      let share: f32 = solidity
      if (S.surfaceLight >= 0) {
        const cosine = abs(S.geometricX * dx + S.geometricY * dy + S.geometricZ * dz)
        const other = E.emissiveDensity(scene, S.surfaceLight, distance, cosine)
        share *= density * density / (density * density + other * other)
      }
      share *= weight
      add(pixel, L.PIXEL_SHADOW_WITH, S.emissionR * share, S.emissionG * share, S.emissionB * share)
    }
    bounceInto(scene, pixel, dx, dy, dz, weight * solidity, dimension + 8, clamp)
  }
  if (!hitBefore && load<u32>(scene, L.SCENE_ENVIRONMENT)) {
    E.environmentFrom(scene, dx, dy, dz)
    const other = E.environmentDensity(scene, dx, dy, dz)
    const share = density * density / (density * density + other * other) * weight
    add(pixel, L.PIXEL_SHADOW_WITHOUT, E.lightR * share, E.lightG * share, E.lightB * share)
    if (pass > 0) add(pixel, L.PIXEL_SHADOW_WITH, E.lightR * share * pass, E.lightG * share * pass, E.lightB * share * pass)
  }
}

/** One bounce of light off the loaded object surface back to the catcher. */
function bounceInto(scene: usize, pixel: usize, dx: f32, dy: f32, dz: f32, weight: f32, dimension: u32, clamp: f32): void {
  M.prepare(scene, dx, dy, dz)
  const step = stepOff()
  const x = S.positionX + S.geometricX * step, y = S.positionY + S.geometricY * step, z = S.positionZ + S.geometricZ * step
  const gx = S.geometricX, gy = S.geometricY, gz = S.geometricZ
  for (let turn = 0; turn < 2; turn++) {
    let found = false
    if (turn == 0) {
      draw(dimension)
      found = E.sampleEnvironment(scene, randomX, randomY)
    } else {
      draw(dimension + 1)
      const pick = randomX
      draw(dimension + 2)
      found = E.sampleLight(scene, x, y, z, pick, randomX, randomY)
    }
    if (!found || E.towardsX * gx + E.towardsY * gy + E.towardsZ * gz <= 0) continue
    M.evaluate(E.towardsX, E.towardsY, E.towardsZ)
    if (M.lobeDensity <= 0) continue
    const isPoint = turn == 1 && E.lightPointLike
    const share = (isPoint ? ONE : ONE / E.lightDensity) * weight
    const r = E.lightR * share, g = E.lightG * share, b = E.lightB * share
    const far: f32 = E.lightDistance < 1e29 ? E.lightDistance * 0.9999 - step : 1e30
    const through = transmittance(scene, x, y, z, E.towardsX, E.towardsY, E.towardsZ, 0, far, 0)
    if (through <= 0) continue
    const cr = M.diffuseR * M.lobeDiffuse * r * through, cg = M.diffuseG * M.lobeDiffuse * g * through, cb = M.diffuseB * M.lobeDiffuse * b * through
    const scale = clampScale(cr, cg, cb, clamp)
    add(pixel, L.PIXEL_SHADOW_WITH, cr * scale, cg * scale, cb * scale)
  }
}

function addCoverage(at: usize, index: i32, weight: f32): void {
  let smallest = at
  for (let slot = 0; slot < L.CRYPTO_SLOTS; slot++) {
    const here = at + (<usize>slot << 3)
    const held = load<i32>(here)
    if (held == index || held == 0) {
      store<i32>(here, index)
      store<f32>(here, load<f32>(here, 4) + weight, 4)
      return
    }
    if (load<f32>(here, 4) < load<f32>(smallest, 4)) smallest = here
  }
  if (load<f32>(smallest, 4) < weight) {
    store<i32>(smallest, index)
    store<f32>(smallest, weight, 4)
  }
}

let rayX: f32 = 0, rayY: f32 = 0, rayZ: f32 = 0
@inline function aim(render: usize, px: f32, py: f32): void {
  const width = <f32>load<i32>(render, L.RENDER_WIDTH), height = <f32>load<i32>(render, L.RENDER_HEIGHT)
  const a = (px / width * 2 - 1 + load<f32>(render, L.RENDER_SHIFT_X)) * load<f32>(render, L.RENDER_TAN_X)
  const b = (ONE - py / height * 2 + load<f32>(render, L.RENDER_SHIFT_Y)) * load<f32>(render, L.RENDER_TAN_Y)
  const camera = render + L.RENDER_CAMERA
  const x = load<f32>(camera, 12) * a + load<f32>(camera, 24) * b - load<f32>(camera, 36)
  const y = load<f32>(camera, 16) * a + load<f32>(camera, 28) * b - load<f32>(camera, 40)
  const z = load<f32>(camera, 20) * a + load<f32>(camera, 32) * b - load<f32>(camera, 44)
  const scale = ONE / sqrt<f32>(x * x + y * y + z * z)
  rayX = x * scale; rayY = y * scale; rayZ = z * scale
}

/** Distance along the view axis of a hit at `distance` along the current ray. */
@inline function axial(render: usize, distance: f32): f32 {
  const camera = render + L.RENDER_CAMERA
  return -distance * (rayX * load<f32>(camera, 36) + rayY * load<f32>(camera, 40) + rayZ * load<f32>(camera, 44))
}

/** Depth and IDs on the ray through the pixel's centre: of the layer with the greatest share of it. */
function traceCentre(scene: usize, render: usize, pixel: usize, x: i32, y: i32): void {
  aim(render, <f32>x + 0.5, <f32>y + 0.5)
  const camera = render + L.RENDER_CAMERA
  const ox = load<f32>(camera), oy = load<f32>(camera, 4), oz = load<f32>(camera, 8)
  let through: f32 = 1, near: f32 = 0, best: f32 = 0
  for (let layer = 0; layer < MAX_LAYERS; layer++) {
    if (!closestHit(scene, ox, oy, oz, rayX, rayY, rayZ, near, 1e30, L.FLAG_HIDDEN)) return
    const distance = hitDistance
    S.loadSurface(scene, hitTriangle, hitU, hitV, rayX, rayY, rayZ)
    const role = load<i32>(<usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.surfaceObject * L.OBJECT_STRIDE)
    const share = through * S.opacity
    if (role == 0 && share > best) {
      best = share
      store<f32>(pixel + (L.PIXEL_DEPTH_CENTRE << 2), axial(render, distance))
      store<i32>(pixel + (L.PIXEL_OBJECT_CENTRE << 2), S.surfaceObject + 1)
      store<i32>(pixel + (L.PIXEL_MATERIAL_CENTRE << 2), S.surfaceMaterial + 1)
    }
    if (role == L.ROLE_CATCHER && S.opacity > 0 && !load<i32>(pixel + (L.PIXEL_CATCHER << 2))) store<i32>(pixel + (L.PIXEL_CATCHER << 2), S.surfaceObject + 1)
    const seenThrough = role == L.ROLE_CATCHER && (S.surfaceFlags & L.OBJECT_LETS_THROUGH) != 0
    if (!seenThrough) through -= share
    if (role != 0 && !seenThrough && S.opacity > 0.5) return
    if (through <= best) return
    near = distance + stepOff()
  }
}

function traceSample(scene: usize, render: usize, pixel: usize, x: i32, y: i32, index: i32): void {
  const flags = load<i32>(render, L.RENDER_FLAGS)
  const maxBounces = load<i32>(render, L.RENDER_MAX_BOUNCES)
  const clamp = load<f32>(render, L.RENDER_CLAMP)
  startSample(x, y, index, load<i32>(render, L.RENDER_SEED))
  draw(0)
  // Filter importance sampling: offsets drawn from the filter, every sample counts the same, no splatting over borders
  const table = <usize>load<u32>(render, L.RENDER_FILTER)
  const a = randomX * 256, b = randomY * 256
  const ia = <usize>a << 2, ib = <usize>b << 2
  const px = <f32>x + HALF + load<f32>(table + ia) + (load<f32>(table + ia, 4) - load<f32>(table + ia)) * (a - floor(a))
  const py = <f32>y + HALF + load<f32>(table + ib) + (load<f32>(table + ib, 4) - load<f32>(table + ib)) * (b - floor(b))
  aim(render, px, py)
  const camera = render + L.RENDER_CAMERA
  const ox = load<f32>(camera), oy = load<f32>(camera, 4), oz = load<f32>(camera, 8)
  const dx = rayX, dy = rayY, dz = rayZ
  let through: f32 = 1, near: f32 = 0
  let dimension: u32 = 8
  for (let layer = 0; layer < MAX_LAYERS; layer++) {
    if (!closestHit(scene, ox, oy, oz, dx, dy, dz, near, 1e30, L.FLAG_HIDDEN)) break
    const distance = hitDistance, triangle = hitTriangle, u = hitU, v = hitV
    S.loadSurface(scene, triangle, u, v, dx, dy, dz)
    const role = load<i32>(<usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.surfaceObject * L.OBJECT_STRIDE)
    const layerOpacity = S.opacity, object = S.surfaceObject
    const nextNear = distance + stepOff()
    if (role == L.ROLE_HOLDOUT && layerOpacity > 0) return
    const share = through * layerOpacity
    if (share > 1e-4) {
      if (role == L.ROLE_CATCHER) {
        if (flags & L.DO_SHADOW) {
          M.prepare(scene, dx, dy, dz)
          const seenThrough = (S.surfaceFlags & L.OBJECT_LETS_THROUGH) != 0
          followShadow(scene, pixel, share, dimension, clamp)
          if (!load<i32>(pixel + (L.PIXEL_CATCHER << 2))) store<i32>(pixel + (L.PIXEL_CATCHER << 2), object + 1)
          if (seenThrough) { near = nextNear; dimension += 256; continue }
        } else if (S.surfaceFlags & L.OBJECT_LETS_THROUGH) { near = nextNear; dimension += 256; continue }
        through -= share
        // The catcher shows the plate through itself: nothing behind it is seen
        if (layerOpacity >= 1) return
      } else {
        const depth = axial(render, distance)
        const held = load<f32>(pixel + (L.PIXEL_DEPTH_NEAREST << 2))
        if (share > 0.05 && (held == 0 || depth < held)) {
          store<f32>(pixel + (L.PIXEL_DEPTH_NEAREST << 2), depth)
          store<i32>(pixel + (L.PIXEL_OBJECT_NEAREST << 2), S.surfaceObject + 1)
          store<i32>(pixel + (L.PIXEL_MATERIAL_NEAREST << 2), S.surfaceMaterial + 1)
        }
        const at = pixel + (L.PIXEL_ALPHA << 2)
        store<f32>(at, load<f32>(at) + share)
        add(pixel, L.PIXEL_ALBEDO, S.baseR * share, S.baseG * share, S.baseB * share)
        add(pixel, L.PIXEL_NORMAL, S.normalX * share, S.normalY * share, S.normalZ * share)
        addCoverage(pixel + (L.PIXEL_CRYPTO_OBJECT << 2), S.surfaceObject + 1, share)
        addCoverage(pixel + (L.PIXEL_CRYPTO_MATERIAL << 2), S.surfaceMaterial + 1, share)
        if (flags & L.DO_OCCLUSION) {
          M.prepare(scene, dx, dy, dz)
          draw(dimension + 7)
          M.sampleCosine(randomX, randomY)
          const step = stepOff()
          let open: f32 = 0
          if (M.outX * S.geometricX + M.outY * S.geometricY + M.outZ * S.geometricZ > 0) {
            open = transmittance(scene, S.positionX + S.geometricX * step, S.positionY + S.geometricY * step, S.positionZ + S.geometricZ * step,
              M.outX, M.outY, M.outZ, 0, load<f32>(render, L.RENDER_OCCLUSION_REACH), 0)
          }
          const occlusion = pixel + (L.PIXEL_OCCLUSION << 2)
          store<f32>(occlusion, load<f32>(occlusion) + open * share)
          store<f32>(occlusion, load<f32>(occlusion, 4) + share, 4)
        }
        if (flags & L.DO_LIGHT) followLight(scene, pixel, dx, dy, dz, share, maxBounces, clamp, dimension)
        through -= share
      }
    }
    if (through < 1e-4) return
    near = nextNear
    dimension += 256
  }
  if ((flags & L.DO_SEE_ENVIRONMENT) && (flags & L.DO_LIGHT)) {
    E.environmentFrom(scene, dx, dy, dz)
    add(pixel, L.PIXEL_ENVIRONMENT, E.lightR * through, E.lightG * through, E.lightB * through)
  }
}

/** Band `band` of a render: one row, sampleCount more samples a pixel added to the accumulator. */
export function renderBand(render: usize, band: i32): void {
  const scene = <usize>load<u32>(render, L.RENDER_SCENE)
  const width = load<i32>(render, L.RENDER_WIDTH)
  const y = band + load<i32>(render, L.RENDER_ROW_OFFSET)
  const start = load<i32>(render, L.RENDER_SAMPLE_START), count = load<i32>(render, L.RENDER_SAMPLE_COUNT)
  let pixel = <usize>load<u32>(render, L.RENDER_ACCUMULATOR) + <usize>(y - load<i32>(render, L.RENDER_FIRST_ROW)) * <usize>width * (L.PIXEL_STRIDE << 2)
  for (let x = 0; x < width; x++) {
    if (start == 0) traceCentre(scene, render, pixel, x, y)
    for (let index = 0; index < count; index++) traceSample(scene, render, pixel, x, y, start + index)
    pixel += L.PIXEL_STRIDE << 2
  }
}
