// As AlikePatches, of another frame than that which is cleaned, and added to what came of others (A. Buades, B. Coll, J.-M.
// Morel, "Nonlocal Image and Movie Denoising", IJCV 76, 2008, go over frames, too; what noise alone differs by does not
// count, as they have it).
import { AlikeFramesArguments } from '../../build/arguments'
import * as L from '../layout'
import { columnsApart, patchesCount } from '../patches'

let room: usize = 0
export function initAlikeFrames(scratch: usize): void {
  room = scratch + L.SCRATCH_FOCUS
}


@final
@unmanaged
export class AlikeFrames extends AlikeFramesArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const other = this.other
    const search = this.search
    const patch = this.patch
    const count = x1 - x0
    const columns = room
    const sums = columns + ((<usize>(count + patch * 2 + 4)) << 2)
    const begin = this.out.colour(x0, y)
    if (this.sum.there) memory.copy(begin, this.sum.colour(x0, y), (<usize>count) << 4)
    else memory.fill(begin, 0, (<usize>count) << 4)
    for (let dy = -search; dy <= search; dy++)
      for (let dx = -search; dx <= search; dx++) {
        columnsApart(this.straight, x0, y, this.otherStraight, x0 + dx, y + dy, count, patch, columns)
        patchesCount(columns, count, patch, this.less, this.over, sums)
        let from = other.colour(x0 + dx, y + dy)
        let to = begin
        for (let i: usize = 0; i < <usize>count; i++, from += 16, to += 16) {
          const weight = v128.load32_splat(sums + (i << 2))
          const seen = f32x4.replace_lane(v128.load(from), 3, 1)
          v128.store(to, f32x4.add(v128.load(to), f32x4.mul(seen, weight)))
        }
      }
  }
}
