// Gradient noise (K. Perlin, "Improving Noise", SIGGRAPH 2002: the quintic fade and the twelve directions; a hash of the
// corners in place of its table).
import { Raster } from './raster'
import { ONE } from './constants'

/** A well mixed number of a corner. */
@inline
function hash(x: i32, y: i32, z: i32, seed: i32): u32 {
  let h: u32 = (<u32>x * 0x8da6b343) ^ (<u32>y * 0xd8163841) ^ (<u32>z * 0xcb1ab31f) ^ (<u32>seed * 0x9e3779b9)
  h = (h ^ (h >> 15)) * 0x2c1b3c6d
  h = (h ^ (h >> 12)) * 0x297a2d39
  return h ^ (h >> 15)
}

/** How far a place lies along the direction of a corner. */
@inline
function along(h: u32, x: f32, y: f32, z: f32): f32 {
  const which = h & 15
  const u = which < 8 ? x : y
  const v = which < 4 ? y : which == 12 || which == 14 ? x : z
  return (which & 1 ? -u : u) + (which & 2 ? -v : v)
}


@inline
function fade(t: f32): f32 {
  return t * t * t * (t * (t * 6 - 15) + 10)
}


@inline
function between(a: f32, b: f32, share: f32): f32 {
  return a + (b - a) * share
}

/** About -1 to 1. */
export function noise(x: f32, y: f32, z: f32, seed: i32): f32 {
  const left = <i32>floor<f32>(x)
  const top = <i32>floor<f32>(y)
  const near = <i32>floor<f32>(z)
  const fx = x - <f32>left
  const fy = y - <f32>top
  const fz = z - <f32>near
  const u = fade(fx)
  const v = fade(fy)
  const w = fade(fz)
  let layer: f32 = 0
  let first: f32 = 0
  for (let k = 0; k < 2; k++) {
    const dz = fz - <f32>k
    const a = along(hash(left, top, near + k, seed), fx, fy, dz)
    const b = along(hash(left + 1, top, near + k, seed), fx - ONE, fy, dz)
    const c = along(hash(left, top + 1, near + k, seed), fx, fy - ONE, dz)
    const d = along(hash(left + 1, top + 1, near + k, seed), fx - ONE, fy - ONE, dz)
    layer = between(between(a, b, u), between(c, d, u), v)
    if (!k) first = layer
  }
  return between(first, layer, w)
}

/** How far apart two places of the world are: that of a pixel, and one at an address. */
@inline
export function apart(source: Raster, at: usize, x: i32, y: i32): f32 {
  const d = f32x4.sub(v128.load(source.colour(x, y)), v128.load(at))
  const dx = f32x4.extract_lane(d, 0)
  const dy = f32x4.extract_lane(d, 1)
  const dz = f32x4.extract_lane(d, 2)
  return sqrt<f32>(dx * dx + dy * dy + dz * dz)
}
