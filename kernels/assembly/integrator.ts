// Camera rays: one row of pixels at a time into the accumulator.
import { ONE, HALF } from './constants'
import * as L from './layout'
import {
  add,
  addCoverage,
  aim,
  axial,
  keepPlace,
  originX,
  originY,
  originZ,
  rayX,
  rayY,
  rayZ,
  stepOff,
  stepOn,
  throughLens,
} from './film'
import { followBeyond } from './beyond'
import { followShadow } from './catcher'
import { castShadows, mirrorObjects } from './cast'
import { drawOpening, openingX, openingY } from './opening'
import { openAt } from './openness'
import { followLight, MAX_LAYERS } from './path'
import { followVolume } from './volume'
import { startSample, draw, randomX, randomY } from './random'
import { closestHit, hitDistance, hitPlace, hitTriangle, hitU, hitV } from './traverse'
import * as S from './surface'
import * as M from './shading'
import * as E from './lights'

/** Depth and IDs on the ray through the pixel's centre: of the layer with the greatest share of it. */
function traceCentre(scene: usize, render: usize, pixel: usize, x: i32, y: i32): void {
  aim(render, <f32>x + 0.5, <f32>y + 0.5)
  const camera = render + L.RENDER_CAMERA
  const ox = load<f32>(camera)
  const oy = load<f32>(camera, 4)
  const oz = load<f32>(camera, 8)
  let through: f32 = 1
  let near: f32 = 0
  let best: f32 = 0
  for (let layer = 0; layer < MAX_LAYERS; layer++) {
    if (!closestHit(scene, ox, oy, oz, rayX, rayY, rayZ, near, 1e30, L.FLAG_HIDDEN)) return
    const distance = hitDistance
    S.loadSurface(scene, hitPlace, hitTriangle, hitU, hitV, rayX, rayY, rayZ)
    const role = load<i32>(<usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.surfaceObject * L.OBJECT_STRIDE)
    const share = through * S.opacity
    if (role == 0 && share > best) {
      best = share
      store<f32>(pixel + (L.PIXEL_DEPTH_CENTRE << 2), axial(render, distance))
      store<i32>(pixel + (L.PIXEL_OBJECT_CENTRE << 2), S.surfaceObject + 1)
      store<i32>(pixel + (L.PIXEL_MATERIAL_CENTRE << 2), S.surfaceMaterial + 1)
      keepPlace(scene, render, pixel)
    }
    if (role == L.ROLE_CATCHER && S.opacity > 0 && !load<i32>(pixel + (L.PIXEL_CATCHER << 2)))
      store<i32>(pixel + (L.PIXEL_CATCHER << 2), S.surfaceObject + 1)
    const seenThrough = role == L.ROLE_CATCHER && (S.surfaceFlags & L.OBJECT_LETS_THROUGH) != 0
    if (!seenThrough) through -= share
    if (role != 0 && !seenThrough && S.opacity > 0.5) return
    if (through <= best) return
    near = stepOn(distance)
  }
}

/**
 * Pairs of random numbers from here on are for what is seen through glass, then for what is mirrored: past those of the
 * layers.
 */
const BEYOND_DIMENSION: u32 = 1 << 16

const AIR_DIMENSION: u32 = BEYOND_DIMENSION * 3
const LENS_DIMENSION: u32 = BEYOND_DIMENSION * 4

/**
 * Metres along a camera ray to what stops it; layers and cut-outs are passed by chance in proportion to their opacity.
 */
function solidAhead(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): f32 {
  let near: f32 = 0
  for (let layer = 0; layer < MAX_LAYERS; layer++) {
    if (!closestHit(scene, ox, oy, oz, dx, dy, dz, near, 1e30, L.FLAG_HIDDEN)) return 1e30
    const distance = hitDistance
    S.loadSurface(scene, hitPlace, hitTriangle, hitU, hitV, dx, dy, dz)
    draw(AIR_DIMENSION + 16 + layer)
    if (randomX < S.opacity) return distance
    near = stepOn(distance)
  }
  return near
}

/** Adds the loaded surface's share to the coverages that are asked for. */
function cover(scene: usize, render: usize, pixel: usize, share: f32): void {
  const slots = load<i32>(render, L.RENDER_SLOTS)
  const object = load<i32>(render, L.RENDER_CRYPTO_OBJECT)
  const material = load<i32>(render, L.RENDER_CRYPTO_MATERIAL)
  const asset = load<i32>(render, L.RENDER_CRYPTO_ASSET)
  if (object) addCoverage(pixel + ((<usize>object) << 2), slots, S.surfaceObject + 1, share)
  if (material) addCoverage(pixel + ((<usize>material) << 2), slots, S.surfaceMaterial + 1, share)
  if (asset)
    addCoverage(
      pixel + ((<usize>asset) << 2),
      slots,
      load<i32>(<usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.surfaceObject * L.OBJECT_STRIDE, L.OBJECT_ASSET) +
        1,
      share,
    )
}

/** Whether a sample still counts for a kind of pass. */
@inline
function within(render: usize, limit: usize, index: i32): bool {
  const most = load<i32>(render + limit)
  return most == 0 || index < most
}

/** What the loaded surface is, as much as it covers of the pixel. */
function keepData(
  scene: usize,
  render: usize,
  pixel: usize,
  surface: usize,
  mist: usize,
  distance: f32,
  share: f32,
  dx: f32,
  dy: f32,
  dz: f32,
): void {
  const depth = axial(render, distance)
  const held = load<f32>(pixel + (L.PIXEL_DEPTH_NEAREST << 2))
  if (share > 0.05 && (held == 0 || depth < held)) {
    store<f32>(pixel + (L.PIXEL_DEPTH_NEAREST << 2), depth)
    store<i32>(pixel + (L.PIXEL_OBJECT_NEAREST << 2), S.surfaceObject + 1)
    store<i32>(pixel + (L.PIXEL_MATERIAL_NEAREST << 2), S.surfaceMaterial + 1)
    if (!load<i32>(pixel + (L.PIXEL_OBJECT_CENTRE << 2))) keepPlace(scene, render, pixel)
  }
  if (surface) {
    add(pixel + surface, L.SURFACE_ALBEDO, S.baseR * share, S.baseG * share, S.baseB * share)
    add(pixel + surface, L.SURFACE_NORMAL, S.normalX * share, S.normalY * share, S.normalZ * share)
    const facing = pixel + surface + (L.SURFACE_FACING << 2)
    store<f32>(facing, load<f32>(facing) - (S.normalX * dx + S.normalY * dy + S.normalZ * dz) * share)
    store<f32>(facing, load<f32>(facing, 4) + depth * share, 4)
  }
  if (mist) {
    const near = load<f32>(render, L.RENDER_MIST_NEAR)
    const t = max<f32>(0, min<f32>(1, (depth - near) / max<f32>(1e-6, load<f32>(render, L.RENDER_MIST_FAR) - near)))
    store<f32>(pixel + mist, load<f32>(pixel + mist) + share * (t * t * (3 - 2 * t) - 1))
  }
  cover(scene, render, pixel, share)
}

/** Passes of data alone along the current ray, where light goes another way. */
function traceData(scene: usize, render: usize, pixel: usize, surface: usize, mist: usize): void {
  const dx = rayX
  const dy = rayY
  const dz = rayZ
  let through: f32 = 1
  let near: f32 = 0
  for (let layer = 0; layer < MAX_LAYERS; layer++) {
    if (!closestHit(scene, originX, originY, originZ, dx, dy, dz, near, 1e30, L.FLAG_HIDDEN)) return
    const distance = hitDistance
    S.loadSurface(scene, hitPlace, hitTriangle, hitU, hitV, dx, dy, dz)
    const role = load<i32>(<usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.surfaceObject * L.OBJECT_STRIDE)
    if (role == L.ROLE_HOLDOUT && S.opacity > 0) return
    near = stepOn(distance)
    const share = through * S.opacity
    if (role == L.ROLE_CATCHER && S.surfaceFlags & L.OBJECT_LETS_THROUGH) continue
    if (role != L.ROLE_CATCHER && share > 1e-4)
      keepData(scene, render, pixel, surface, mist, distance, share, dx, dy, dz)
    through -= share
    if (through < 1e-4) return
  }
}

/** What is seen through glass and in mirrors, along the current ray. */
function keepBeyond(scene: usize, render: usize, pixel: usize, index: i32): void {
  if (!within(render, L.RENDER_MOST_BEYOND, index)) return
  if (load<i32>(render, L.RENDER_BEYOND)) followBeyond(scene, render, pixel, L.SEEN_THROUGH, BEYOND_DIMENSION, false)
  if (load<i32>(render, L.RENDER_BEYOND + L.BEYOND_STRIDE))
    followBeyond(scene, render, pixel, L.SEEN_MIRRORED, BEYOND_DIMENSION * 2, false)
}

function traceSample(scene: usize, render: usize, pixel: usize, x: i32, y: i32, index: i32): void {
  // Offsets of blocks in bytes, 0 for those that are not asked for
  const lit = within(render, L.RENDER_MOST_LIGHT, index)
  const shaded = within(render, L.RENDER_MOST_SHADOW, index)
  const light = lit ? (<usize>load<i32>(render, L.RENDER_LIGHT)) << 2 : 0
  const surface = (<usize>load<i32>(render, L.RENDER_SURFACE)) << 2
  const shadow = shaded ? (<usize>load<i32>(render, L.RENDER_SHADOW)) << 2 : 0
  const openness = within(render, L.RENDER_MOST_OCCLUSION, index)
    ? (<usize>load<i32>(render, L.RENDER_OCCLUSION)) << 2
    : 0
  const groups = (<usize>load<i32>(render, L.RENDER_GROUPS)) << 2
  const raw = (<usize>load<i32>(render, L.RENDER_RAW)) << 2
  const on = shaded ? (<usize>load<i32>(render, L.RENDER_SHADOW_ON)) << 2 : 0
  const chosen = shaded ? (<usize>load<i32>(render, L.RENDER_SHADOW_CHOSEN)) << 2 : 0
  const wet = lit ? (<usize>load<i32>(render, L.RENDER_CATCHER_LIGHT)) << 2 : 0
  const mist = (<usize>load<i32>(render, L.RENDER_MIST)) << 2
  const maxBounces = load<i32>(render, L.RENDER_MAX_BOUNCES)
  const clamp = load<f32>(render, L.RENDER_CLAMP)
  startSample(x, y, index, load<i32>(render, L.RENDER_SEED))
  draw(0)
  // Filter importance sampling: offsets drawn from the filter, every sample counts the same, no splatting over borders
  const table = <usize>load<u32>(render, L.RENDER_FILTER)
  const a = randomX * 256
  const b = randomY * 256
  const ia = (<usize>a) << 2
  const ib = (<usize>b) << 2
  const px = <f32>x + HALF + load<f32>(table + ia) + (load<f32>(table + ia, 4) - load<f32>(table + ia)) * (a - floor(a))
  const py = <f32>y + HALF + load<f32>(table + ib) + (load<f32>(table + ib, 4) - load<f32>(table + ib)) * (b - floor(b))
  aim(render, px, py)
  const opening = load<f32>(render, L.RENDER_OPENING)
  const sharp = opening > 0 && (load<i32>(render, L.RENDER_FLAGS) & L.DO_SHARP_DATA) != 0
  if (sharp) {
    keepBeyond(scene, render, pixel, index)
    traceData(scene, render, pixel, surface, mist)
  }
  if (opening > 0) {
    drawOpening(render, px, py, LENS_DIMENSION)
    throughLens(render, openingX * opening, openingY * opening)
  }
  const ox = originX
  const oy = originY
  const oz = originZ
  const dx = rayX
  const dy = rayY
  const dz = rayZ
  if (!sharp) keepBeyond(scene, render, pixel, index)
  const air = (<usize>load<i32>(render, L.RENDER_VOLUME)) << 2
  if (air && lit)
    followVolume(scene, pixel + air, ox, oy, oz, dx, dy, dz, solidAhead(scene, ox, oy, oz, dx, dy, dz), AIR_DIMENSION)
  let through: f32 = 1
  let near: f32 = 0
  let dimension: u32 = 8
  for (let layer = 0; layer < MAX_LAYERS; layer++) {
    if (!closestHit(scene, ox, oy, oz, dx, dy, dz, near, 1e30, L.FLAG_HIDDEN)) break
    const distance = hitDistance
    const place = hitPlace
    const triangle = hitTriangle
    const u = hitU
    const v = hitV
    S.loadSurface(scene, place, triangle, u, v, dx, dy, dz)
    const role = load<i32>(<usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.surfaceObject * L.OBJECT_STRIDE)
    const layerOpacity = S.opacity
    const object = S.surfaceObject
    const nextNear = stepOn(distance)
    if (role == L.ROLE_HOLDOUT && layerOpacity > 0) return
    const share = through * layerOpacity
    if (share > 1e-4) {
      if (role == L.ROLE_CATCHER) {
        if (shadow || chosen || wet) {
          const seenThrough = (S.surfaceFlags & L.OBJECT_LETS_THROUGH) != 0
          if (chosen) castShadows(scene, 0, pixel + chosen, share, dimension)
          if (wet) {
            mirrorObjects(scene, pixel + wet, dx, dy, dz, share, maxBounces, clamp, dimension)
            S.loadSurface(scene, place, triangle, u, v, dx, dy, dz)
          }
          if (shadow) followShadow(scene, pixel + shadow, dx, dy, dz, share, maxBounces, clamp, dimension)
          if (!load<i32>(pixel + (L.PIXEL_CATCHER << 2))) store<i32>(pixel + (L.PIXEL_CATCHER << 2), object + 1)
          if (seenThrough) {
            near = nextNear
            dimension += 256
            continue
          }
        } else if (S.surfaceFlags & L.OBJECT_LETS_THROUGH) {
          near = nextNear
          dimension += 256
          continue
        }
        through -= share
        // The catcher shows the plate through itself: nothing behind it is seen
        if (layerOpacity >= 1) return
      } else {
        const at = pixel + (L.PIXEL_ALPHA << 2)
        store<f32>(at, load<f32>(at) + share)
        if (!sharp) keepData(scene, render, pixel, surface, mist, distance, share, dx, dy, dz)
        if (openness) {
          M.prepare(scene, dx, dy, dz)
          const open = openAt(scene, render, dimension)
          const occlusion = pixel + openness
          store<f32>(occlusion, load<f32>(occlusion) + open * share)
          store<f32>(occlusion, load<f32>(occlusion, 4) + share, 4)
        }
        if (on || chosen) castShadows(scene, on ? pixel + on : 0, chosen ? pixel + chosen : 0, share, dimension)
        if (light) {
          if (S.emissionR + S.emissionG + S.emissionB > 0)
            store<f32>(pixel, load<f32>(pixel, L.PIXEL_SHINING << 2) + share, L.PIXEL_SHINING << 2)
          followLight(
            scene,
            pixel + light,
            groups ? pixel + groups : 0,
            raw ? pixel + raw : 0,
            dx,
            dy,
            dz,
            share,
            maxBounces,
            clamp,
            dimension,
          )
        }
        through -= share
      }
    }
    if (through < 1e-4) return
    near = nextNear
    dimension += 256
  }
  if (light && load<i32>(render, L.RENDER_FLAGS) & L.DO_SEE_ENVIRONMENT) {
    E.environmentFrom(scene, dx, dy, dz)
    add(pixel + light, L.LIGHT_ENVIRONMENT, E.lightR * through, E.lightG * through, E.lightB * through)
    if (groups)
      add(
        pixel + groups,
        load<i32>(scene, L.SCENE_ENVIRONMENT_GROUP) * 3,
        E.lightR * through,
        E.lightG * through,
        E.lightB * through,
      )
  }
}

// Sums of the light passes of a pixel: of matt light, of light that is mirrored or let through, and of what is seen of
// lamps and sky themselves
let mattR: f32 = 0
let mattG: f32 = 0
let mattB: f32 = 0
let sentR: f32 = 0
let sentG: f32 = 0
let sentB: f32 = 0
let seenR: f32 = 0
let seenG: f32 = 0
let seenB: f32 = 0
function sumOfLight(light: usize): void {
  mattR = load<f32>(light) + load<f32>(light, 12)
  mattG = load<f32>(light, 4) + load<f32>(light, 16)
  mattB = load<f32>(light, 8) + load<f32>(light, 20)
  sentR = load<f32>(light, 24) + load<f32>(light, 36)
  sentG = load<f32>(light, 28) + load<f32>(light, 40)
  sentB = load<f32>(light, 32) + load<f32>(light, 44)
  seenR = load<f32>(light, 48) + load<f32>(light, 60)
  seenG = load<f32>(light, 52) + load<f32>(light, 64)
  seenB = load<f32>(light, 56) + load<f32>(light, 68)
}

/** One sample, and what it gave on its own, for the measure of noise. */
function measured(scene: usize, render: usize, pixel: usize, x: i32, y: i32, index: i32): void {
  const light = (<usize>load<i32>(render, L.RENDER_LIGHT)) << 2
  const shadow = (<usize>load<i32>(render, L.RENDER_SHADOW)) << 2
  const noise = pixel + ((<usize>load<i32>(render, L.RENDER_NOISE)) << 2)
  const odd = (index & 1) != 0
  if (light) sumOfLight(pixel + light)
  const mr = mattR
  const mg = mattG
  const mb = mattB
  const sr = sentR
  const sg = sentG
  const sb = sentB
  const vr = seenR
  const vg = seenG
  const vb = seenB
  // What the shadow held before is taken off, what it holds after is put on
  if (shadow && odd)
    for (let field: usize = 0; field < (<usize>L.SHADOW_SHARE) << 2; field += 4)
      store<f32>(
        noise + field,
        load<f32>(noise + field, L.NOISE_SHADOW << 2) - load<f32>(pixel + shadow + field),
        L.NOISE_SHADOW << 2,
      )
  traceSample(scene, render, pixel, x, y, index)
  if (shadow && odd)
    for (let field: usize = 0; field < (<usize>L.SHADOW_SHARE) << 2; field += 4)
      store<f32>(
        noise + field,
        load<f32>(noise + field, L.NOISE_SHADOW << 2) + load<f32>(pixel + shadow + field),
        L.NOISE_SHADOW << 2,
      )
  if (!light) return
  sumOfLight(pixel + light)
  const dmr = mattR - mr
  const dmg = mattG - mg
  const dmb = mattB - mb
  const dsr = sentR - sr
  const dsg = sentG - sg
  const dsb = sentB - sb
  const dvr = seenR - vr
  const dvg = seenG - vg
  const dvb = seenB - vb
  if (odd) {
    add(noise, L.NOISE_MATT, dmr, dmg, dmb)
    add(noise, L.NOISE_SENT, dsr, dsg, dsb)
    add(noise, L.NOISE_SEEN, dvr, dvg, dvb)
  }
  add(noise, L.NOISE_SQUARES_MATT, dmr * dmr, dmg * dmg, dmb * dmb)
  add(noise, L.NOISE_SQUARES_SENT, dsr * dsr, dsg * dsg, dsb * dsb)
  const r = dmr + dsr + dvr
  const g = dmg + dsg + dvg
  const b = dmb + dsb + dvb
  add(noise, L.NOISE_SQUARES, r * r, g * g, b * b)
}

/** Band `band` of a render: one row, sampleCount more samples a pixel added to the accumulator. */
export function renderBand(render: usize, band: i32): void {
  const scene = <usize>load<u32>(render, L.RENDER_SCENE)
  const width = load<i32>(render, L.RENDER_WIDTH)
  const y = band + load<i32>(render, L.RENDER_ROW_OFFSET)
  const count = load<i32>(render, L.RENDER_SAMPLE_COUNT)
  const stride = (<usize>load<i32>(render, L.RENDER_STRIDE)) << 2
  const noise = load<i32>(render, L.RENDER_NOISE) != 0
  M.wantMatt(load<i32>(render, L.RENDER_RAW) != 0)
  let pixel =
    <usize>load<u32>(render, L.RENDER_ACCUMULATOR) +
    <usize>(y - load<i32>(render, L.RENDER_FIRST_ROW)) * <usize>width * stride
  for (let x = 0; x < width; x++) {
    if (load<i32>(pixel + (L.PIXEL_RESTS << 2))) {
      pixel += stride
      continue
    }
    const start = load<i32>(pixel + (L.PIXEL_COUNT << 2))
    store<i32>(pixel + (L.PIXEL_COUNT << 2), start + count)
    if (start == 0) {
      traceCentre(scene, render, pixel, x, y)
      if (load<i32>(render, L.RENDER_BEYOND)) followBeyond(scene, render, pixel, L.SEEN_THROUGH, 0, true)
      if (load<i32>(render, L.RENDER_BEYOND + L.BEYOND_STRIDE))
        followBeyond(scene, render, pixel, L.SEEN_MIRRORED, 0, true)
    }
    for (let index = 0; index < count; index++) {
      if (noise) measured(scene, render, pixel, x, y, start + index)
      else traceSample(scene, render, pixel, x, y, start + index)
    }
    pixel += stride
  }
}
