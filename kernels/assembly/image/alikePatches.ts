// Means of pixels whose surroundings are alike, wherever they lie about (A. Buades, B. Coll, J.-M. Morel, "A Non-Local
// Algorithm for Image Denoising", CVPR 2005): each counts by 2^(over times the sum of squares by which the square patches
// about both differ). For one way to the other pixel a whole row is done at once, its patches' columns added up once.
import { AlikePatchesArguments } from '../../build/arguments'
import * as L from '../layout'
import { columnsApart, patchesCount } from '../patches'

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
        columnsApart(this.straight, x0, y, this.straight, x0 + dx, y + dy, count, patch, columns)
        patchesCount(columns, count, patch, this.less, this.over, sums)
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
}
