// Planes of a render made from the accumulator, each on a band of rows.
import { ONE } from './constants'
import * as L from './layout'
import { number, pointer, whole } from './words'


@inline
function perSample(pixel: usize, most: i32): f32 {
  const count = load<i32>(pixel, L.PIXEL_COUNT << 2)
  const counted = most > 0 ? min(count, most) : count
  return counted > 0 ? ONE / <f32>counted : 0
}

/**
 * Words: 2 accumulator, 3 floats a pixel, 4 field, 5 channels, 6 what to do, 7 out (channels floats a pixel), 8 samples
 * that it got at most (0: all), 9 field of the weights (or of the second choice), 10 value where there is nothing, 11
 * and 12 fields of the numbers that say whether the middle and the nearest met something.
 * Of a ratio 11 is the field of sums of the share that it is about; the rest of what is not covered by objects is as it
 * was. 0: it is about all.
 */
export function resolveBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const stride = (<usize>whole(args, 3)) << 2
  const field = (<usize>whole(args, 4)) << 2
  const channels = whole(args, 5)
  const how = whole(args, 6)
  const most = whole(args, 8)
  const other = (<usize>whole(args, 9)) << 2
  const nothing = number(args, 10)
  let pixel = pointer(args, 2) + <usize>(y0 * width) * stride
  let out = pointer(args, 7) + ((<usize>(y0 * width * channels)) << 2)
  for (let i = (y1 - y0) * width; i > 0; i--, pixel += stride) {
    const from = pixel + field
    if (how == L.RESOLVE_CHOICE) {
      // What the middle met, else the nearest
      const centre = load<i32>(pixel + ((<usize>whole(args, 11)) << 2))
      const nearest = load<i32>(pixel + ((<usize>whole(args, 12)) << 2))
      store<i32>(out, centre ? load<i32>(from) : nearest ? load<i32>(pixel + other) : load<i32>(args, 40))
      out += 4
      continue
    }
    let share = perSample(pixel, most)
    let about: f32 = 1
    if (how == L.RESOLVE_RATIO && whole(args, 11)) {
      const open = ONE - load<f32>(pixel, L.PIXEL_ALPHA << 2) * perSample(pixel, 0)
      about = min<f32>(1, (load<f32>(pixel + ((<usize>whole(args, 11)) << 2)) * share) / max<f32>(1e-4, open))
    }
    if (how == L.RESOLVE_DIRECTION) {
      const x = load<f32>(from)
      const y = load<f32>(from, 4)
      const z = load<f32>(from, 8)
      const long = sqrt<f32>(x * x + y * y + z * z)
      share = long > 1e-6 ? ONE / long : 0
    } else if (how == L.RESOLVE_SHARE) {
      const weight = load<f32>(pixel + other)
      share = weight > 0 ? ONE / weight : 0
      if (share == 0) {
        for (let c = 0; c < channels; c++, out += 4) store<f32>(out, nothing)
        continue
      }
    }
    for (let c: usize = 0; c < <usize>channels; c++, out += 4) {
      if (how == L.RESOLVE_WORD) store<i32>(out, load<i32>(from + (c << 2)))
      else if (how == L.RESOLVE_RATIO) {
        const weight = load<f32>(pixel + other + (c << 2))
        const ratio: f32 = weight > 0 ? load<f32>(from + (c << 2)) / weight : nothing
        store<f32>(out, nothing + (ratio - nothing) * about)
      } else store<f32>(out, load<f32>(from + (c << 2)) * share)
    }
  }
}

/**
 * Words: 2 accumulator, 3 floats a pixel, 4 field, 5 slots, 6 ranks, 7 out: u16 index + 1 a rank, 8 out: f32 share a
 * rank, greatest first, 9 samples that it got at most (0: all).
 */
export function resolveCoverageBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const stride = (<usize>whole(args, 3)) << 2
  const field = (<usize>whole(args, 4)) << 2
  const slots = <usize>whole(args, 5)
  const ranks = <usize>whole(args, 6)
  const most = whole(args, 9)
  const first = <usize>(y0 * width)
  let pixel = pointer(args, 2) + first * stride
  let index = pointer(args, 7) + first * ranks * 2
  let weight = pointer(args, 8) + first * ranks * 4
  for (let i = (y1 - y0) * width; i > 0; i--, pixel += stride, index += ranks * 2, weight += ranks * 4) {
    const scale = perSample(pixel, most)
    let count: usize = 0
    for (let slot: usize = 0; slot < slots; slot++) {
      const at = pixel + field + (slot << 3)
      const held = load<i32>(at)
      if (!held) break
      const share = load<f32>(at, 4) * scale
      // Insertion into the few ranks
      let rank = count
      while (rank > 0 && load<f32>(weight + ((rank - 1) << 2)) < share) {
        if (rank < ranks) {
          store<f32>(weight + (rank << 2), load<f32>(weight + ((rank - 1) << 2)))
          store<u16>(index + (rank << 1), load<u16>(index + ((rank - 1) << 1)))
        }
        rank--
      }
      if (rank < ranks) {
        store<f32>(weight + (rank << 2), share)
        store<u16>(index + (rank << 1), <u16>held)
      }
      if (count < ranks) count++
    }
    for (let rank = count; rank < ranks; rank++) {
      store<f32>(weight + (rank << 2), 0)
      store<u16>(index + (rank << 1), 0)
    }
  }
}
