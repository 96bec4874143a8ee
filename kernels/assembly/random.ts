// Low-discrepancy samples: the first two Sobol dimensions, shuffled and Owen-scrambled by hashing, padded for higher
// dimensions. Source: B. Burley, "Practical Hash-based Owen Scrambling", JCGT 9(4), 2020; the hash is that of
// S. Laine and T. Karras (2011) with the constants of N. Vegdahl (2021, from memory).

const DIRECTIONS = memory.data(4096) // Sobol dimension 1 by byte: 4 tables of 256 u32
export let randomX: f32 = 0
export let randomY: f32 = 0
let sequence: u32 = 0
let pixelSeed: u32 = 0

export function initRandom(): void {
  let direction: u32 = 0x80000000
  // Dimension 1 of Sobol: v[i] = v[i-1] ^ (v[i-1] >> 1) (primitive polynomial x + 1)
  for (let bit = 0; bit < 32; bit++) {
    const table = DIRECTIONS + ((bit >> 3) << 10)
    const mask = 1 << (bit & 7)
    for (let value = 0; value < 256; value++) {
      if ((bit & 7) == 0 && value == 0) store<u32>(table, 0)
      if (value & mask) {
        const rest = value & (mask - 1)
        if (value >> (bit & 7) == 1) store<u32>(table + (value << 2), load<u32>(table + (rest << 2)) ^ direction)
      }
    }
    direction ^= direction >> 1
  }
}


@inline
export function hash(value: u32): u32 {
  // Finaliser of MurmurHash3 (public domain, A. Appleby)
  value ^= value >> 16
  value *= 0x85ebca6b
  value ^= value >> 13
  value *= 0xc2b2ae35
  return value ^ (value >> 16)
}


@inline
function reverse(value: u32): u32 {
  value = (value >> 16) | (value << 16)
  value = ((value & 0x00ff00ff) << 8) | ((value & 0xff00ff00) >> 8)
  value = ((value & 0x0f0f0f0f) << 4) | ((value & 0xf0f0f0f0) >> 4)
  value = ((value & 0x33333333) << 2) | ((value & 0xcccccccc) >> 2)
  return ((value & 0x55555555) << 1) | ((value & 0xaaaaaaaa) >> 1)
}


@inline
function permute(value: u32, seed: u32): u32 {
  value ^= value * 0x3d20adea
  value += seed
  value *= (seed >> 16) | 1
  value ^= value * 0x05526c56
  value ^= value * 0x53a22864
  return value
}

/** A number in [0, 1) by the upper 24 bits. */
@inline
export function unit(value: u32): f32 {
  return <f32>(value >> 8) * <f32>5.9604644775390625e-8
}

/**
 * Samples of a pixel are two sequences that know nothing of each other, by turns: then the difference of the halves says
 * how far off their mean is. The halves of one sequence fill each other's gaps, and would say twice that.
 */
export function startSample(x: u32, y: u32, index: u32, seed: u32): void {
  pixelSeed = hash(x + hash(y + hash(seed + 0x9e3779b9 + (index & 1) * 0x85ebca6b)))
  sequence = reverse(index >> 1)
}

/** Draws the pair of numbers in [0, 1) of one dimension pair into randomX and randomY. */
export function draw(pair: u32): void {
  const seed = hash(pixelSeed ^ (pair * 0x9e3779b9 + 0x7f4a7c15))
  const shuffled = reverse(permute(sequence, seed))
  const second =
    load<u32>(DIRECTIONS + ((shuffled & 255) << 2)) ^
    load<u32>(DIRECTIONS + 1024 + (((shuffled >> 8) & 255) << 2)) ^
    load<u32>(DIRECTIONS + 2048 + (((shuffled >> 16) & 255) << 2)) ^
    load<u32>(DIRECTIONS + 3072 + ((shuffled >> 24) << 2))
  const a = reverse(permute(shuffled, hash(seed + 1)))
  const b = reverse(permute(reverse(second), hash(seed + 2)))
  randomX = unit(a)
  randomY = unit(b)
}
