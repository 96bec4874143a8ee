// Gradient noise (K. Perlin, "Improving Noise", SIGGRAPH 2002: the quintic fade and the twelve directions; a hash of the
// corners in place of its table), octaves of half the size and half the strength summed up; the last of them in part.
import { NoiseMatteArguments } from '../../build/arguments'
import { HALF, ONE } from '../constants'

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
function noise(x: f32, y: f32, z: f32, seed: i32): f32 {
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


@final
@unmanaged
export class NoiseMatte extends NoiseMatteArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let to = this.out.single(x0, y)
    if (this.place.there) {
      let from = this.place.colour(x0, y)
      // Every octave goes its own way through it, so that it boils as a whole
      const boil = this.boil
      for (let x = x0; x < x1; x++, to += 4, from += 16) {
        const across = load<f32>(from) * this.scale - this.left
        const up = load<f32>(from, 4) * this.scale - this.top
        const back = load<f32>(from, 8) * this.scale
        store<f32>(to, this.shown(this.summed(across, up, back, boil)))
      }
      return
    }
    const down = (<f32>y + HALF - this.top) * this.scale
    for (let x = x0; x < x1; x++, to += 4)
      store<f32>(to, this.shown(this.summed((<f32>x + HALF - this.left) * this.scale, down, this.boil, 0)))
  }

  summed(x: f32, y: f32, z: f32, boil: f32): f32 {
    const octaves = this.octaves
    let sum: f32 = 0
    let size: f32 = 1
    let strength: f32 = HALF
    for (let i = 0; <f32>i < octaves; i++) {
      const share = min<f32>(1, octaves - <f32>i)
      // Octaves stand apart, or their corners would meet in one place
      const aside = <f32>i * <f32>17.3
      const turn = boil * (i & 1 ? -ONE : ONE)
      sum +=
        noise(x * size + aside + turn, y * size - aside + boil, z * size + aside - turn, this.seed + i) *
        strength *
        share
      size += size
      strength *= HALF
    }
    return sum
  }


  @inline
  shown(sum: f32): f32 {
    // What is no number is not in
    const value = max<f32>(0, min<f32>(1, sum * this.contrast + this.level))
    const held = value == value ? value : 0
    return this.invert ? ONE - held : held
  }
}
