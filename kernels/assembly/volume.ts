// Air with something in it: a medium that absorbs and scatters along camera rays, lit by everything, with its shafts.
// Light that is scattered once.
import { angle } from './angles'
import { HALF, ONE } from './constants'
import * as L from './layout'
import { add } from './film'
import { clearance, densityAt, evenDensity, inSpan, span, spanFirst, spanLast } from './medium'
import { draw, randomX, randomY } from './random'
import { transmittance } from './traverse'
import * as E from './lights'
import { alongSpot, beamFirst, beamLast, isBeam } from './beam'
import { pickLight, pickedChance, standAlong } from './lighttree'

/** Steps along a camera ray at least; each takes at most a quarter of its light, so that there may be more. */
const STEPS = 24
const MOST_TAKEN: f32 = 0.25

let steps: usize = 0
export function initVolume(pointer: usize): void {
  steps = pointer + L.SCRATCH_STEPS
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
      first = min(first, spanFirst(i))
      last = max(last, spanLast(i))
    }
  if (first >= last) return
  draw(dimension)
  const jitter = randomX
  const longest = (last - first) / <f32>STEPS
  let through: f32 = 1
  let t = first
  let taken = 0
  for (; taken < L.MOST_STEPS && t < last && through > 1e-4; taken++) {
    // As long as it may be without taking too much: a medium that thins out is densest at one of its ends
    let step = min(longest, last - t)
    for (let halved = 0; halved < 40; halved++) {
      let dense: f32 = 0
      for (let i = 0; i < count; i++) {
        if (spanLast(i) <= t || spanFirst(i) >= t + step) continue
        const volume = volumes + <usize>i * L.VOLUME_STRIDE
        dense += max(evenDensity(volume, oy + dy * t), evenDensity(volume, oy + dy * (t + step)))
      }
      if (dense * step <= MOST_TAKEN) break
      step *= HALF
    }
    const place = t + jitter * step
    let sum: f32 = 0
    for (let i = 0; i < count; i++)
      if (inSpan(i, place))
        sum += densityAt(volumes + <usize>i * L.VOLUME_STRIDE, ox + dx * place, oy + dy * place, oz + dz * place)
    const at = steps + <usize>taken * L.STEP_STRIDE
    const rest = Mathf.exp(-sum * step)
    store<f32>(at, t)
    store<f32>(at, step, 4)
    store<f32>(at, through, 8)
    // What the step scatters or takes, and for a metre of it by density
    store<f32>(at, through * (ONE - rest), 12)
    const depth = sum * step
    store<f32>(at, through * (depth > 1e-3 ? (ONE - rest) / depth : ONE - depth * HALF), 16)
    through *= rest
    t += step
  }
  const cover = ONE - through
  store<f32>(block, load<f32>(block, 12) + cover, 12)
  if (cover <= 0) return
  const choiceOfPlace = randomY
  const near = stepBy(choiceOfPlace * cover, taken)
  const placed = load<f32>(near) + jitter * load<f32>(near, 4)
  // The environment, at a place drawn by what the medium takes there
  lightUp(scene, block, 0, -1, ox, oy, oz, dx, dy, dz, placed, cover, jitter, dimension)
  // A lamp, chosen for all of the ray, at another: drawn so too, or by how near the ray comes to the lamp
  // (C. Kulla and M. Fajardo, "Importance Sampling Techniques for Path Tracing in Participating Media", EGSR 2012)
  standAlong(scene, ox, oy, oz, dx, dy, dz, first, t)
  draw(dimension + 4)
  const lamp = pickLight(scene, randomX)
  if (lamp < 0) return
  const chance = pickedChance
  const choice = randomY
  draw(dimension + 5)
  if (!E.centreOf(scene, lamp)) {
    const other = stepBy(randomX * cover, taken)
    lightUp(
      scene,
      block,
      chance,
      lamp,
      ox,
      oy,
      oz,
      dx,
      dy,
      dz,
      load<f32>(other) + jitter * load<f32>(other, 4),
      cover,
      jitter,
      dimension,
    )
    return
  }
  // Of a beam only what of the ray lies in it
  const beam = isBeam(scene, lamp)
  let begins = first
  let ends = t
  if (beam) {
    if (!alongSpot(scene, lamp, ox, oy, oz, dx, dy, dz, first, t)) return
    begins = beamFirst
    ends = beamLast
  }
  const cx = E.centreX - ox
  const cy = E.centreY - oy
  const cz = E.centreZ - oz
  const closest = cx * dx + cy * dy + cz * dz
  // Not of squares: far from the lamp they would be all but equal
  const offX = cx - closest * dx
  const offY = cy - closest * dy
  const offZ = cz - closest * dz
  const off = max<f32>(1e-5, sqrt<f32>(offX * offX + offY * offY + offZ * offZ))
  const from = angle(begins - closest, off)
  const wide = angle(ends - closest, off) - from
  let at: usize = 0
  let metres: f32
  if (!beam && choice < 0.5) {
    at = stepBy(randomX * cover, taken)
    metres = load<f32>(at) + jitter * load<f32>(at, 4)
  } else {
    const turned = from + randomX * wide
    metres = closest + (off * Mathf.sin(turned)) / max<f32>(1e-7, Mathf.cos(turned))
    metres = max(begins, min(ends, metres))
    at = stepOf(metres, taken)
  }
  const away = metres - closest
  const byAngle = off / (max<f32>(1e-7, wide) * (off * off + away * away))
  const byTaking = load<f32>(at, 12) / (cover * load<f32>(at, 4))
  const density = beam ? byAngle : HALF * (byAngle + byTaking)
  let sum: f32 = 0
  for (let i = 0; i < count; i++)
    if (inSpan(i, metres))
      sum += densityAt(volumes + <usize>i * L.VOLUME_STRIDE, ox + dx * metres, oy + dy * metres, oz + dz * metres)
  if (sum <= 0) return
  lightUp(
    scene,
    block,
    chance,
    lamp,
    ox,
    oy,
    oz,
    dx,
    dy,
    dz,
    metres,
    (sum * load<f32>(at, 16)) / density,
    jitter,
    dimension,
  )
}

/** The step in which that much is taken. */
function stepBy(value: f32, count: i32): usize {
  let sum: f32 = 0
  let at = steps
  for (let k = 0; k < count; k++) {
    at = steps + <usize>k * L.STEP_STRIDE
    sum += load<f32>(at, 12)
    if (sum > value) break
  }
  return at
}
/** The step that a place lies in. */
function stepOf(metres: f32, count: i32): usize {
  let low = 0
  let high = count - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (load<f32>(steps + <usize>middle * L.STEP_STRIDE) <= metres) low = middle
    else high = middle - 1
  }
  return steps + <usize>low * L.STEP_STRIDE
}

/** Adds what the media at a place of the ray send of the environment (lamp below 0) or a lamp picked by that chance. */
function lightUp(
  scene: usize,
  block: usize,
  chance: f32,
  lamp: i32,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  metres: f32,
  weight: f32,
  jitter: f32,
  dimension: u32,
): void {
  const x = ox + dx * metres
  const y = oy + dy * metres
  const z = oz + dz * metres
  if (lamp < 0) {
    if (!E.drawLight(scene, 0, dimension + 1, x, y, z)) return
  } else {
    draw(dimension + 6)
    if (!E.sampleFrom(scene, lamp, chance, x, y, z, randomX, randomY)) return
  }
  const tx = E.towardsX
  const ty = E.towardsY
  const tz = E.towardsZ
  const lr = E.lightR
  const lg = E.lightG
  const lb = E.lightB
  const lit = E.lightDistance < 1e29 ? E.lightDistance * <f32>0.9999 : <f32>1e30
  const each = weight / E.lightDensity
  const seen = transmittance(scene, x, y, z, tx, ty, tz, 0, lit, 0)
  if (seen <= 0) return
  // Media that lie over each other share the place by how dense they are
  let r: f32 = 0
  let g: f32 = 0
  let b: f32 = 0
  let sum: f32 = 0
  for (let i = 0; i < load<i32>(scene, L.SCENE_VOLUME_COUNT); i++) {
    if (!inSpan(i, metres)) continue
    const volume = <usize>load<u32>(scene, L.SCENE_VOLUMES) + <usize>i * L.VOLUME_STRIDE
    const dense = densityAt(volume, x, y, z)
    sum += dense
    const sent = dense * phase(load<f32>(volume, L.VOLUME_FORWARD), dx * tx + dy * ty + dz * tz)
    r += sent * load<f32>(volume, L.VOLUME_COLOUR)
    g += sent * load<f32>(volume, L.VOLUME_COLOUR + 4)
    b += sent * load<f32>(volume, L.VOLUME_COLOUR + 8)
  }
  if (sum <= 0) return
  const arrives = (each * seen * clearance(scene, x, y, z, tx, ty, tz, lit, jitter)) / sum
  add(block, 0, r * lr * arrives, g * lg * arrives, b * lb * arrives)
}
