// Air with something in it: a medium that absorbs and scatters along camera rays, lit by everything, with its shafts.
// Light that is scattered once.
import { ONE } from './constants'
import * as L from './layout'
import { add } from './film'
import { draw, randomX, randomY, hash } from './random'
import { closestHit, hitDistance, transmittance } from './traverse'
import * as E from './lights'
import { standAt } from './lighttree'

/** Steps along a camera ray, and along a ray to a light. */
const STEPS = 24
const LIGHT_STEPS = 8
/** Metres within which a medium that fills all space is followed. */
const FARTHEST: f32 = 500

let scratch: usize = 0
export function initVolume(pointer: usize): void {
  scratch = pointer + L.SCRATCH_SPANS
}

/** Keeps what of a ray up to `far` lies in the i-th medium; false when nothing does. */
function span(scene: usize, i: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, far: f32): bool {
  const volume = <usize>load<u32>(scene, L.SCENE_VOLUMES) + <usize>i * L.VOLUME_STRIDE
  const out = scratch + <usize>i * L.SPAN_STRIDE
  const kind = load<i32>(volume, L.VOLUME_KIND)
  let enters: f32 = 0
  let leaves = min<f32>(far, FARTHEST)
  let crossings = 0
  if (kind == L.VOLUME_MESH) {
    // Where a closed body is crossed; an odd count in all begins within it
    let near: f32 = 0
    const body = <usize>load<u32>(volume, L.VOLUME_SCENE)
    while (crossings < L.MOST_CROSSINGS && closestHit(body, ox, oy, oz, dx, dy, dz, near, 1e30, 0)) {
      store<f32>(out + ((<usize>crossings) << 2), hitDistance, 16)
      near = hitDistance + max<f32>(1e-5, hitDistance * <f32>1e-6)
      crossings++
    }
    if (!crossings) {
      store<i32>(out, 0, 8)
      store<f32>(out, 0)
      store<f32>(out, 0, 4)
      return false
    }
    if (!(crossings & 1)) enters = load<f32>(out, 16)
    leaves = min(leaves, load<f32>(out + ((<usize>(crossings - 1)) << 2), 16))
  } else if (kind != L.VOLUME_SPACE) {
    for (let k: usize = 0; k < 48; k += 16) {
      const row = volume + L.VOLUME_ROWS + k
      const o = load<f32>(row) * ox + load<f32>(row, 4) * oy + load<f32>(row, 8) * oz + load<f32>(row, 12)
      const d = load<f32>(row) * dx + load<f32>(row, 4) * dy + load<f32>(row, 8) * dz
      if (abs(d) < 1e-9) {
        if (abs(o) > 0.5) leaves = 0
        continue
      }
      const a = (<f32>-0.5 - o) / d
      const b = (<f32>0.5 - o) / d
      enters = max(enters, min(a, b))
      leaves = min(leaves, max(a, b))
    }
  }
  store<f32>(out, enters)
  store<f32>(out, leaves, 4)
  store<i32>(out, crossings, 8)
  return enters < leaves
}
/** Whether metres along that ray lie in the i-th medium. */
function inSpan(i: i32, t: f32): bool {
  const out = scratch + <usize>i * L.SPAN_STRIDE
  if (t < load<f32>(out) || t > load<f32>(out, 4)) return false
  const crossings = load<i32>(out, 8)
  if (!crossings) return true
  let beyond = 0
  for (let k = crossings - 1; k >= 0 && load<f32>(out + ((<usize>k) << 2), 16) > t; k--) beyond++
  return (beyond & 1) != 0
}


@inline
function lattice(x: i32, y: i32, z: i32, seed: i32): f32 {
  return <f32>(hash(x + hash(y + hash(z + seed))) >> 8) * <f32>5.9604644775390625e-8
}
/** Smooth noise, 0..1, of three sizes one in another. */
function cloud(x: f32, y: f32, z: f32, seed: i32): f32 {
  let sum: f32 = 0
  let weight: f32 = 0.5714286
  for (let octave = 0; octave < 3; octave++) {
    const ix = <i32>floor(x)
    const iy = <i32>floor(y)
    const iz = <i32>floor(z)
    let fx = x - <f32>ix
    let fy = y - <f32>iy
    let fz = z - <f32>iz
    fx = fx * fx * (3 - 2 * fx)
    fy = fy * fy * (3 - 2 * fy)
    fz = fz * fz * (3 - 2 * fz)
    let value: f32 = 0
    for (let k = 0; k < 8; k++)
      value +=
        lattice(ix + (k & 1), iy + ((k >> 1) & 1), iz + (k >> 2), seed + octave) *
        (k & 1 ? fx : ONE - fx) *
        (k & 2 ? fy : ONE - fy) *
        (k & 4 ? fz : ONE - fz)
    sum += value * weight
    weight *= 0.5
    x *= 2
    y *= 2
    z *= 2
  }
  return sum
}

/** Extinction of a medium at a place within it, a metre. */
function densityAt(volume: usize, x: f32, y: f32, z: f32): f32 {
  let density = load<f32>(volume, L.VOLUME_DENSITY)
  const fall = load<f32>(volume, L.VOLUME_FALL)
  if (fall > 0) density *= Mathf.exp(-max<f32>(0, y - load<f32>(volume, L.VOLUME_BASE)) * fall)
  const uneven = load<f32>(volume, L.VOLUME_NOISE)
  if (uneven > 0) {
    const fine = load<f32>(volume, L.VOLUME_NOISE_SCALE)
    // Contrast grows with it: from even to patches with nothing between
    density *= max<f32>(
      0,
      ONE + uneven * (4 * cloud(x * fine, y * fine, z * fine, load<i32>(volume, L.VOLUME_SEED)) - 2),
    )
  }
  return density
}

/** How much light passes all media between a place and another, `far` along a direction; jitter 0..1. */
function clearance(scene: usize, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, far: f32, jitter: f32): f32 {
  let depth: f32 = 0
  for (let i = 0; i < load<i32>(scene, L.SCENE_VOLUME_COUNT); i++) {
    const volume = <usize>load<u32>(scene, L.SCENE_VOLUMES) + <usize>i * L.VOLUME_STRIDE
    // What fills all space evenly has no outside that far light would have to come through
    if (far > 1e29 && load<i32>(volume, L.VOLUME_KIND) == L.VOLUME_SPACE && load<f32>(volume, L.VOLUME_FALL) <= 0)
      continue
    if (!span(scene, i, x, y, z, dx, dy, dz, far)) continue
    const begin = load<f32>(scratch + <usize>i * L.SPAN_STRIDE)
    const step = (load<f32>(scratch + <usize>i * L.SPAN_STRIDE, 4) - begin) / <f32>LIGHT_STEPS
    for (let k = 0; k < LIGHT_STEPS; k++) {
      const t = begin + (<f32>k + jitter) * step
      if (inSpan(i, t)) depth += densityAt(volume, x + dx * t, y + dy * t, z + dz * t) * step
    }
  }
  return Mathf.exp(-depth)
}

/**
 * How much goes on at an angle whose cosine to the way it came is that, a steradian (L. G. Henyey and J. L. Greenstein
 * 1941).
 */
@inline
function phase(g: f32, cosine: f32): f32 {
  const k = ONE + g * g - 2 * g * cosine
  return ((ONE - g * g) * <f32>0.0795774715) / (k * sqrt<f32>(k))
}

/**
 * One sample of the media before `far` along a camera ray: light that they send to it, and what they take of what is
 * behind.
 */
export function followVolume(
  scene: usize,
  block: usize,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  far: f32,
  dimension: u32,
): void {
  const count = load<i32>(scene, L.SCENE_VOLUME_COUNT)
  const volumes = <usize>load<u32>(scene, L.SCENE_VOLUMES)
  let first: f32 = 1e30
  let last: f32 = 0
  for (let i = 0; i < count; i++)
    if (span(scene, i, ox, oy, oz, dx, dy, dz, far)) {
      first = min(first, load<f32>(scratch + <usize>i * L.SPAN_STRIDE))
      last = max(last, load<f32>(scratch + <usize>i * L.SPAN_STRIDE, 4))
    }
  if (first >= last) return
  draw(dimension)
  const jitter = randomX
  const step = (last - first) / <f32>STEPS
  let choice = randomY
  let through: f32 = 1
  let total: f32 = 0
  let chosenAt: f32 = 0
  let chosen: usize = 0
  for (let k = 0; k < STEPS; k++) {
    const t = first + (<f32>k + jitter) * step
    const x = ox + dx * t
    const y = oy + dy * t
    const z = oz + dz * t
    let sum: f32 = 0
    for (let i = 0; i < count; i++) {
      const volume = volumes + <usize>i * L.VOLUME_STRIDE
      if (!inSpan(i, t)) continue
      const density = densityAt(volume, x, y, z)
      sum += density
      // One place is lit for all of the ray: each is kept with the share that it has of what came so far
      const weight = through * density * step
      total += weight
      if (weight > 0) {
        const share = weight / total
        if (choice < share) {
          chosen = volume
          chosenAt = t
          choice /= share
        } else choice = (choice - share) / (ONE - share)
      }
    }
    through *= Mathf.exp(-sum * step)
  }
  const cover = ONE - through
  store<f32>(block, load<f32>(block, 12) + cover, 12)
  if (!chosen || total <= 0 || cover <= 0) return
  const x = ox + dx * chosenAt
  const y = oy + dy * chosenAt
  const z = oz + dz * chosenAt
  const g = load<f32>(chosen, L.VOLUME_FORWARD)
  const r = load<f32>(chosen, L.VOLUME_COLOUR) * cover
  const green = load<f32>(chosen, L.VOLUME_COLOUR + 4) * cover
  const b = load<f32>(chosen, L.VOLUME_COLOUR + 8) * cover
  standAt(scene, x, y, z, 0, 0, 0)
  for (let turn = 0; turn < 2; turn++) {
    if (!E.drawLight(scene, turn, dimension + 1 + turn * 3, x, y, z)) continue
    const tx = E.towardsX
    const ty = E.towardsY
    const tz = E.towardsZ
    const lit = E.lightDistance < 1e29 ? E.lightDistance * <f32>0.9999 : <f32>1e30
    const gain = phase(g, dx * tx + dy * ty + dz * tz) / E.lightDensity
    const lr = E.lightR
    const lg = E.lightG
    const lb = E.lightB
    const seen = transmittance(scene, x, y, z, tx, ty, tz, 0, lit, 0)
    if (seen <= 0) continue
    const arrives = gain * seen * clearance(scene, x, y, z, tx, ty, tz, lit, jitter)
    add(block, 0, r * lr * arrives, green * lg * arrives, b * lb * arrives)
  }
}
