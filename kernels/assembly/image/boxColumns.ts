// The same down columns (boxRows.ts), begun anew at every 32nd row. A few columns at a time, row by row: a column by itself
// would come by the same few lines of the cache again and again.
import { BoxColumnsArguments } from '../../build/arguments'
import * as L from '../layout'
import { FEW } from './boxRows'

const BLOCK: i32 = 32
/** Columns at a time: their sums, four f64 each, and those of a few rows, four f32 each, lie in the thread's own room. */
const COLUMNS: i32 = 64

let room: usize = 0
export function initBoxColumns(scratch: usize): void {
  room = scratch + L.SCRATCH_STACK
}


@final
@unmanaged
export class BoxColumns extends BoxColumnsArguments {
  block(x0: i32, y0: i32, x1: i32, y1: i32): void {
    const low = this.low
    const high = this.high
    const reach = this.reach
    for (let first = <i32>floor<f32>(<f32>y0 / <f32>BLOCK) * BLOCK; first < y1; first += BLOCK) {
      const last = min(y1, first + BLOCK)
      for (let left = x0; left < x1; left += COLUMNS) {
        const count = min(COLUMNS, x1 - left)
        let begin = max(low, first - reach)
        // A block may begin before the picture does
        let end = max(begin, min(high, first + reach + 1))
        memory.fill(room, 0, (<usize>count) << 5)
        for (let y = begin; y < end; y += FEW) this.addRows(left, y, min(end, y + FEW), count)
        for (let y = first; y < last; y++) {
          if (y >= y0) this.write(left, y, count, 1 / <f64>max(1, end - begin))
          if (end < high && y + reach + 1 >= end) {
            this.add(left, end, count, 1)
            end++
          }
          if (y - reach >= low) {
            this.add(left, begin, count, -1)
            begin++
          }
        }
      }
    }
  }

  /** A few rows in single precision, which loses next to nothing and is four times as fast. */
  addRows(left: i32, y: i32, end: i32, count: i32): void {
    const source = this.source
    const few = room + ((<usize>COLUMNS) << 5)
    memory.copy(few, source.colour(left, y), (<usize>count) << 4)
    for (let j = y + 1; j < end; j++) {
      let from = source.colour(left, j)
      for (let i = 0, to = few; i < count; i++, from += 16, to += 16)
        v128.store(to, f32x4.add(v128.load(to), v128.load(from)))
    }
    for (let i = 0, to = room, from = few; i < count; i++, to += 32, from += 16) {
      const some = v128.load(from)
      v128.store(to, f64x2.add(v128.load(to), f64x2.promote_low_f32x4(some)))
      v128.store(to, f64x2.add(v128.load(to, 16), f64x2.promote_low_f32x4(i32x4.shuffle(some, some, 2, 3, 2, 3))), 16)
    }
  }


  @inline
  add(left: i32, y: i32, count: i32, sign: f64): void {
    const signs = f64x2.splat(sign)
    let from = this.source.colour(left, y)
    for (let i = 0, to = room; i < count; i++, to += 32, from += 16) {
      const pixel = v128.load(from)
      v128.store(to, f64x2.add(v128.load(to), f64x2.mul(signs, f64x2.promote_low_f32x4(pixel))))
      v128.store(
        to,
        f64x2.add(
          v128.load(to, 16),
          f64x2.mul(signs, f64x2.promote_low_f32x4(i32x4.shuffle(pixel, pixel, 2, 3, 2, 3))),
        ),
        16,
      )
    }
  }


  @inline
  write(left: i32, y: i32, count: i32, share: f64): void {
    const scale = f64x2.splat(share)
    let to = this.out.colour(left, y)
    for (let i = 0, from = room; i < count; i++, from += 32, to += 16)
      v128.store(
        to,
        i32x4.shuffle(
          f32x4.demote_f64x2_zero(f64x2.mul(v128.load(from), scale)),
          f32x4.demote_f64x2_zero(f64x2.mul(v128.load(from, 16), scale)),
          0,
          1,
          4,
          5,
        ),
      )
  }
}
