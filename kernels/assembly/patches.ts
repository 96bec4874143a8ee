// How alike the square patches about pixels of two rows are, a whole row at once: columns are added up once.
import { powersOfTwo } from './exponent'
import { Raster } from './raster'

/** Squares by which columns of patches of one picture differ from those of another, of red, green and blue. */
export function columnsApart(
  one: Raster,
  x: i32,
  y: i32,
  other: Raster,
  otherX: i32,
  otherY: i32,
  count: i32,
  patch: i32,
  columns: usize,
): void {
  const row = (<usize>one.stride) << 4
  const otherRow = (<usize>other.stride) << 4
  let a = one.colour(x - patch, y - patch)
  let b = other.colour(otherX - patch, otherY - patch)
  const end = columns + ((<usize>(count + patch * 2)) << 2)
  const side = patch * 2 + 1
  for (let to = columns; to < end; to += 4, a += 16, b += 16) {
    let sum = f32x4.splat(0)
    for (let k = 0, p = a, q = b; k < side; k++, p += row, q += otherRow) {
      const apart = f32x4.sub(v128.load(p), v128.load(q))
      sum = f32x4.add(sum, f32x4.mul(apart, apart))
    }
    store<f32>(to, f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 2))
  }
}

/** Of sums of columns those of patches, less what noise makes of them, and of those what they count. */
export function patchesCount(columns: usize, count: i32, patch: i32, less: f32, over: f32, sums: usize): void {
  const side = <usize>(patch * 2 + 1)
  const factor = f32x4.splat(over)
  const noise = f32x4.splat(less)
  const end = sums + ((<usize>count) << 2)
  for (let to = sums, from = columns; to < end; to += 16, from += 16) {
    let sum = v128.load(from)
    for (let k: usize = 1; k < side; k++) sum = f32x4.add(sum, v128.load(from + (k << 2)))
    v128.store(to, powersOfTwo(f32x4.mul(f32x4.max(f32x4.sub(sum, noise), f32x4.splat(0)), factor)))
  }
}
