// Glass: what its small faces mirror and let through (B. Walter et al., "Microfacet models for refraction", EGSR 2007),
// and walks of light at them that lose nothing and gain nothing.
import { ONE, TWO } from './constants'
import {
  hx,
  hy,
  hz,
  masking,
  mirror,
  sampleCosine,
  sampledHeight,
  straight,
  TABLE,
  toWorld,
  viewX,
  viewY,
  viewZ,
  visibleNormal,
} from './facets'
import * as L from './layout'
import { hash, unit } from './random'
import { fresnel, ofPane } from './opacity'
import { alphaRoughness, backFacing, glass, glassTable, ior, transmission } from './surface'

/** Index on this side over index beyond. */
let eta: f32 = 1
// What one scattering at the loaded glass mirrors, and lets through, of even light
export let glassMirrors: f32 = 0
export let glassPasses: f32 = 0
/** Width of the small faces below which glass counts as smooth more and more: its table is too coarse for the bend. */
const NEARLY_SMOOTH: f32 = 0.009


@inline
function within(): bool {
  return glass == L.GLASS_SOLID && backFacing
}

/** Takes the loaded glass as it is seen. */
export function prepareGlass(): void {
  eta = within() ? ior : ONE / ior
  lookGlass(viewZ)
}

/** Share of light that a small face mirrors, met at that cosine. */
@inline
export function ofFace(cosine: f32): f32 {
  const r = fresnel(cosine, eta)
  return glass == L.GLASS_SOLID ? r : ofPane(r)
}

function lookGlass(cosine: f32): void {
  glassMirrors = ofFace(cosine)
  glassPasses = ONE - glassMirrors
  if (glass == L.GLASS_PANE) return
  const table = glassTable + (within() ? (<usize>(TABLE * L.GLASS_COLUMNS)) << 3 : 0)
  const x = min<f32>(1, max<f32>(0, cosine)) * <f32>(L.GLASS_COLUMNS - 1)
  const y = rowOf()
  const x0 = min<i32>(L.GLASS_COLUMNS - 2, <i32>x)
  const y0 = min<i32>(TABLE - 2, <i32>y)
  const fx = x - <f32>x0
  const fy = y - <f32>y0
  const at = table + ((<usize>(y0 * L.GLASS_COLUMNS + x0)) << 3)
  const row: usize = (<usize>L.GLASS_COLUMNS) << 3
  const r0 = load<f32>(at) + (load<f32>(at, 8) - load<f32>(at)) * fx
  const r1 = load<f32>(at + row) + (load<f32>(at + row, 8) - load<f32>(at + row)) * fx
  const t0 = load<f32>(at, 4) + (load<f32>(at, 12) - load<f32>(at, 4)) * fx
  const t1 = load<f32>(at + row, 4) + (load<f32>(at + row, 12) - load<f32>(at + row, 4)) * fx
  const share = min<f32>(1, alphaRoughness / NEARLY_SMOOTH)
  glassMirrors += (r0 + (r1 - r0) * fy - glassMirrors) * share
  glassPasses += (t0 + (t1 - t0) * fy - glassPasses) * share
}


@inline
function rowOf(): f32 {
  return sqrt<f32>(min<f32>(1, max<f32>(alphaRoughness, NEARLY_SMOOTH))) * <f32>(TABLE - 1)
}

/**
 * How matt light within a body is spread over directions, by their cosine, as a factor to Lambert's: only into those
 * that its border would let out, for only those could have come in (reciprocity). Into the others it would be shut in
 * for ever. 1 outside, and for sheets.
 */
export function mattWithin(cosine: f32): f32 {
  if (!within()) return 1
  const means = glassTable + ((<usize>(TABLE * L.GLASS_COLUMNS * 2)) << 3)
  const y = rowOf()
  const y0 = min<i32>(TABLE - 2, <i32>y)
  const at = means + ((<usize>y0) << 2)
  const mean = load<f32>(at) + (load<f32>(at, 4) - load<f32>(at)) * (y - <f32>y0)
  return letsOut(cosine) / mean
}
function letsOut(cosine: f32): f32 {
  lookGlass(cosine)
  return glassPasses / max<f32>(1e-4, glassMirrors + glassPasses)
}

/**
 * Leaves the way through the small face in outX, Y, Z; returns its height over the surface, not below 0 where light
 * does not pass.
 */
function bendThrough(vh: f32): f32 {
  let x: f32
  let y: f32
  let z: f32
  if (glass == L.GLASS_SHEET) {
    // In by one face and out by the other: as if mirrored, to the other side
    x = TWO * vh * hx - viewX
    y = TWO * vh * hy - viewY
    z = viewZ - TWO * vh * hz
  } else {
    const inside = ONE - eta * eta * (ONE - vh * vh)
    if (inside <= 0) return 0
    const along = eta * vh - sqrt<f32>(inside)
    x = along * hx - eta * viewX
    y = along * hy - eta * viewY
    z = along * hz - eta * viewZ
  }
  toWorld(x, y, z)
  return z
}

/** Masking of a way through, of those that leave at height z below the surface. */
@inline
function passing(z: f32): f32 {
  return (TWO * -z) / (masking(alphaRoughness, z) - z)
}

/**
 * What of the light comes along the way through the drawn small face (left in outX, Y, Z), of which face mirrors r: 0
 * where light does not pass.
 */
export function throughFace(vh: f32, r: f32): f32 {
  const z = bendThrough(vh)
  return z >= -1e-6 ? 0 : (ONE - r) * passing(z) * transmission
}

/** Tries of a walk before its light is given up. */
const TRIES = 96
export const WALK_THROUGH = 1
export const WALK_STAYS = 2
/**
 * Walks light on from the loaded glass: it is mirrored, or goes through, or is matt light, each as often as it happens
 * and so that every one of them carries all of the light. What the small faces mask is tried again, which is what the
 * lobes' boost stands for. Leaves the direction in outX, Y, Z; returns WALK_THROUGH or WALK_STAYS, 0 where there is
 * none. u, v, choice: random numbers of the first try; a choice below 0 is for what can only mirror.
 */
export function walk(u: f32, v: f32, choice: f32): i32 {
  let state = hash(reinterpret<u32>(u) + hash(reinterpret<u32>(v) + hash(reinterpret<u32>(choice))))
  for (let i = 0; i < TRIES; i++) {
    visibleNormal(u, v, alphaRoughness)
    const vh = viewX * hx + viewY * hy + viewZ * hz
    state = hash(state + 0x9e3779b9)
    const kept = unit(state)
    if (choice < ofFace(vh)) {
      const z = mirror()
      // Masking of both ways over that of the view alone, correlated by height
      if (z > 0) {
        const gv = masking(alphaRoughness, viewZ)
        if (kept * (z * gv + viewZ * masking(alphaRoughness, z)) < z * (viewZ + gv)) return WALK_STAYS
      }
    } else {
      const z = bendThrough(vh)
      if (z < -1e-6 && kept < passing(z)) {
        state = hash(state + 0x9e3779b9)
        if (unit(state) < transmission) return WALK_THROUGH
        return mattWalk(state)
      }
    }
    state = hash(state + 0x9e3779b9)
    u = unit(state)
    state = hash(state + 0x9e3779b9)
    v = unit(state)
    state = hash(state + 0x9e3779b9)
    if (choice >= 0) choice = unit(state)
  }
  return 0
}
function mattWalk(state: u32): i32 {
  for (let i = 0; i < TRIES; i++) {
    state = hash(state + 0x9e3779b9)
    const u = unit(state)
    state = hash(state + 0x9e3779b9)
    sampleCosine(u, unit(state))
    if (!within()) return WALK_STAYS
    state = hash(state + 0x9e3779b9)
    if (unit(state) < letsOut(sampledHeight)) return WALK_STAYS
  }
  return 0
}

/**
 * The way on through the prepared glass, or mirrored by the prepared surface, left in outX, Y, Z: by the surface itself
 * when smooth is said, else by one of its small faces drawn with u, v. Returns -1 when it goes through, 1 when it stays
 * on this side (light that is mirrored whole within glass too), 0 where there is none.
 */
export function leaveFace(u: f32, v: f32, smooth: bool, mirrors: bool): i32 {
  if (smooth) straight()
  else visibleNormal(u, v, alphaRoughness)
  if (!mirrors && bendThrough(viewX * hx + viewY * hy + viewZ * hz) < -1e-6) return -1
  return mirror() > 0 ? 1 : 0
}
