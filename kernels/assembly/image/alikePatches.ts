// Means of pixels whose surroundings are alike, wherever they lie about (A. Buades, B. Coll, J.-M. Morel, "A Non-Local
// Algorithm for Image Denoising", CVPR 2005): each counts by 2^(over times the sum of squares by which the square patches
// about both differ). For one way to the other pixel a whole row is done at once, its patches' columns added up once.
import { AlikePatchesArguments } from '../../build/arguments'
import { powersOfTwo } from '../exponent'
import * as L from '../layout'

let room: usize = 0
export function initAlikePatches(scratch: usize): void {
  room = scratch + L.SCRATCH_FOCUS
}


@final
@unmanaged
export class AlikePatches extends AlikePatchesArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const search = this.search
    const patch = this.patch
    const count = x1 - x0
    // Sums of columns, then of patches; weights so far
    const columns = room
    const sums = columns + ((<usize>(count + patch * 2 + 4)) << 2)
    const weights = sums + ((<usize>(count + 4)) << 2)
    const begin = this.out.colour(x0, y)
    memory.fill(begin, 0, (<usize>count) << 4)
    memory.fill(weights, 0, (<usize>count) << 2)
    for (let dy = -search; dy <= search; dy++)
      for (let dx = -search; dx <= search; dx++) {
        this.compare(x0, count, y, dx, dy, columns)
        this.weigh(count, columns, sums)
        let from = source.colour(x0 + dx, y + dy)
        let to = begin
        for (let i: usize = 0; i < <usize>count; i++, from += 16, to += 16) {
          const weight = load<f32>(sums + (i << 2))
          v128.store(to, f32x4.add(v128.load(to), f32x4.mul(v128.load(from), f32x4.splat(weight))))
          store<f32>(weights + (i << 2), load<f32>(weights + (i << 2)) + weight)
        }
      }
    for (let i: usize = 0, to = begin; i < <usize>count; i++, to += 16)
      v128.store(to, f32x4.div(v128.load(to), v128.load32_splat(weights + (i << 2))))
  }

  /** Squares by which columns of patches differ from those so far across and down, of red, green and blue. */
  compare(x0: i32, count: i32, y: i32, dx: i32, dy: i32, columns: usize): void {
    const straight = this.straight
    const patch = this.patch
    const row = (<usize>straight.stride) << 4
    let one = straight.colour(x0 - patch, y - patch)
    let other = straight.colour(x0 - patch + dx, y - patch + dy)
    const end = columns + ((<usize>(count + patch * 2)) << 2)
    const side = patch * 2 + 1
    for (let to = columns; to < end; to += 4, one += 16, other += 16) {
      let sum = f32x4.splat(0)
      for (let k = 0, a = one, b = other; k < side; k++, a += row, b += row) {
        const apart = f32x4.sub(v128.load(a), v128.load(b))
        sum = f32x4.add(sum, f32x4.mul(apart, apart))
      }
      store<f32>(to, f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 2))
    }
  }

  /** Of sums of columns those of patches, and of those what they count. */
  weigh(count: i32, columns: usize, sums: usize): void {
    const side = this.patch * 2 + 1
    const over = f32x4.splat(this.over)
    const end = sums + ((<usize>count) << 2)
    for (let to = sums, from = columns; to < end; to += 16, from += 16) {
      let sum = v128.load(from)
      for (let k: usize = 1; k < <usize>side; k++) sum = f32x4.add(sum, v128.load(from + (k << 2)))
      v128.store(to, powersOfTwo(f32x4.mul(sum, over)))
    }
  }
}
