// Media: where a ray is in them, how dense they are there, and how much light passes them.
import { HALF, ONE } from './constants'
import * as L from './layout'
import { hash } from './random'
import { closestHit, hitDistance } from './traverse'

/** Places along a ray to a light at which an uneven medium is asked. */
const LIGHT_STEPS = 8
/** Metres within which a medium that fills all space is followed: past the sky. */
const FARTHEST: f32 = 1e6

let scratch: usize = 0
export function initMedium(pointer: usize): void {
  scratch = pointer + L.SCRATCH_SPANS
}

/** Keeps what of a camera ray up to `far` lies in the i-th medium; false when nothing does. */
export function span(scene: usize, i: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, far: f32): bool {
  return spanInto(scratch + <usize>i * L.SPAN_STRIDE, scene, i, ox, oy, oz, dx, dy, dz, far)
}
/** First and last metre of what span kept. */
@inline
export function spanFirst(i: i32): f32 {
  return load<f32>(scratch + <usize>i * L.SPAN_STRIDE)
}


@inline
export function spanLast(i: i32): f32 {
  return load<f32>(scratch + <usize>i * L.SPAN_STRIDE, 4)
}
function spanInto(
  out: usize,
  scene: usize,
  i: i32,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  far: f32,
): bool {
  const volume = <usize>load<u32>(scene, L.SCENE_VOLUMES) + <usize>i * L.VOLUME_STRIDE
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
export function inSpan(i: i32, t: f32): bool {
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

/** Extinction of a medium without its unevenness at a height, a metre. */
export function evenDensity(volume: usize, y: f32): f32 {
  const density = load<f32>(volume, L.VOLUME_DENSITY)
  const fall = load<f32>(volume, L.VOLUME_FALL)
  return fall > 0 ? density * Mathf.exp(-max<f32>(0, y - load<f32>(volume, L.VOLUME_BASE)) * fall) : density
}

/** What a medium without its unevenness takes between two places of a ray: the exponent of Beer and Lambert. */
function evenDepth(volume: usize, oy: f32, dy: f32, from: f32, to: f32): f32 {
  if (from >= to) return 0
  const fall = load<f32>(volume, L.VOLUME_FALL)
  const density = load<f32>(volume, L.VOLUME_DENSITY)
  if (fall <= 0) return density * (to - from)
  const base = load<f32>(volume, L.VOLUME_BASE)
  // Below its base it is even
  let low = from
  let high = to
  let even: f32 = 0
  if (abs(dy) > 1e-7) {
    const crossing = (base - oy) / dy
    if (dy > 0) {
      low = max(from, min(to, crossing))
      even = low - from
    } else {
      high = min(to, max(from, crossing))
      even = to - high
    }
  } else if (oy <= base) return density * (to - from)
  const long = high - low
  if (long <= 0) return density * even
  const near = Mathf.exp(-max<f32>(0, oy + dy * low - base) * fall)
  const rise = dy * long * fall
  // The integral of exp(-fall h), in a form that keeps its digits where h hardly changes
  const mean: f32 = abs(rise) < 1e-3 ? ONE - rise * (HALF - rise / 6) : (ONE - Mathf.exp(-rise)) / rise
  return density * (even + near * mean * long)
}

/** Extinction of a medium at a place within it, a metre. */
export function densityAt(volume: usize, x: f32, y: f32, z: f32): f32 {
  return evenDensity(volume, y) * unevenness(volume, x, y, z)
}
function unevenness(volume: usize, x: f32, y: f32, z: f32): f32 {
  const uneven = load<f32>(volume, L.VOLUME_NOISE)
  if (uneven <= 0) return 1
  const fine = load<f32>(volume, L.VOLUME_NOISE_SCALE)
  return patchiness(uneven, x * fine, y * fine, z * fine, load<i32>(volume, L.VOLUME_SEED))
}
/** How much thicker uneven air is at a place than it is in the mean; places count in its patches. */
export function patchiness(uneven: f32, x: f32, y: f32, z: f32, seed: i32): f32 {
  // Contrast grows with it: from even to patches with nothing between
  return max<f32>(0, ONE + uneven * (4 * cloud(x, y, z, seed) - 2))
}

/** How much light passes all media between a place and another, `far` along a direction; jitter 0..1. */
export function clearance(scene: usize, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, far: f32, jitter: f32): f32 {
  let depth: f32 = 0
  for (let i = 0; i < load<i32>(scene, L.SCENE_VOLUME_COUNT); i++) {
    const volume = <usize>load<u32>(scene, L.SCENE_VOLUMES) + <usize>i * L.VOLUME_STRIDE
    // What fills all space evenly has no outside that far light would have to come through
    if (far > 1e29 && load<i32>(volume, L.VOLUME_KIND) == L.VOLUME_SPACE && load<f32>(volume, L.VOLUME_FALL) <= 0)
      continue
    const at = scratch + L.SPANS_TO_LIGHT + <usize>i * L.SPAN_STRIDE
    if (!spanInto(at, scene, i, x, y, z, dx, dy, dz, far)) continue
    const begin = load<f32>(at)
    const end = load<f32>(at, 4)
    const crossings = load<i32>(at, 8)
    let even: f32 = 0
    if (!crossings) even = evenDepth(volume, y, dy, begin, end)
    else {
      // Within a closed body between every other crossing
      for (let k = crossings - 1; k >= 0; k -= 2) {
        const into: f32 = k > 0 ? load<f32>(at + ((<usize>(k - 1)) << 2), 16) : 0
        even += evenDepth(volume, y, dy, min(end, into), min(end, load<f32>(at + ((<usize>k) << 2), 16)))
      }
    }
    if (load<f32>(volume, L.VOLUME_NOISE) > 0 && even > 0) {
      // Its unevenness, where what it takes is
      let sum: f32 = 0
      let all: f32 = 0
      const step = shorter(volume, y, dy, end - begin) / <f32>LIGHT_STEPS
      for (let k = 0; k < LIGHT_STEPS; k++) {
        const t = begin + (<f32>k + jitter) * step
        const weight = evenDensity(volume, y + dy * t)
        all += weight
        sum += weight * unevenness(volume, x + dx * t, y + dy * t, z + dz * t)
      }
      if (all > 0) even *= sum / all
    }
    depth += even
  }
  return Mathf.exp(-depth)
}

/** Metres of a way in a medium within which nearly all lies that it takes: up to ten half heights over its base. */
function shorter(volume: usize, y: f32, dy: f32, long: f32): f32 {
  const fall = load<f32>(volume, L.VOLUME_FALL)
  if (fall <= 0 || dy <= 1e-6) return long
  return min(long, (max<f32>(0, load<f32>(volume, L.VOLUME_BASE) - y) + 7 / fall) / dy)
}
