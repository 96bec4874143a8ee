// The same down columns (boxRows.ts), begun anew at every 64th row. A few columns at a time, row by row: a column by itself
// would come by the same few lines of the cache again and again.
import { BoxColumnsArguments } from '../../build/arguments'
import * as L from '../layout'
import { FEW } from './boxRows'
import { rounded, second } from './doubles'

const BLOCK: i32 = 64
/** Columns at a time: their sums, four f64 each, and those of a few rows, four f32 each, lie in the thread's own room. */
const COLUMNS: i32 = 256

let room: usize = 0
export function initBoxColumns(scratch: usize): void {
  room = scratch + L.SCRATCH_FOCUS
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
          const share = 1 / <f64>max(1, end - begin)
          const comes = end < high && y + reach + 1 >= end
          const goes = y - reach >= low
          if (y >= y0 && comes && goes) this.slide(left, y, count, share, begin, end)
          else {
            if (y >= y0) this.write(left, y, count, share)
            if (comes) this.add(left, end, count, 1)
            if (goes) this.add(left, begin, count, -1)
          }
          if (comes) end++
          if (goes) begin++
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
      v128.store(to, f64x2.add(v128.load(to, 16), second(some)), 16)
    }
  }

  /** Writes a row of means, and moves all windows on by one. */
  slide(left: i32, y: i32, count: i32, share: f64, begin: i32, end: i32): void {
    const scale = f64x2.splat(share)
    const stop = room + ((<usize>count) << 5)
    let to = this.out.colour(left, y)
    let next = this.source.colour(left, end)
    let old = this.source.colour(left, begin)
    for (let at = room; at < stop; at += 32, to += 16, next += 16, old += 16) {
      const near = v128.load(at)
      const far = v128.load(at, 16)
      v128.store(to, rounded(f64x2.mul(near, scale), f64x2.mul(far, scale)))
      const comes = v128.load(next)
      const goes = v128.load(old)
      v128.store(at, f64x2.add(near, f64x2.sub(f64x2.promote_low_f32x4(comes), f64x2.promote_low_f32x4(goes))))
      v128.store(at, f64x2.add(far, f64x2.sub(second(comes), second(goes))), 16)
    }
  }

  add(left: i32, y: i32, count: i32, sign: f64): void {
    const signs = f64x2.splat(sign)
    let from = this.source.colour(left, y)
    for (let i = 0, to = room; i < count; i++, to += 32, from += 16) {
      const pixel = v128.load(from)
      v128.store(to, f64x2.add(v128.load(to), f64x2.mul(signs, f64x2.promote_low_f32x4(pixel))))
      v128.store(to, f64x2.add(v128.load(to, 16), f64x2.mul(signs, second(pixel))), 16)
    }
  }

  write(left: i32, y: i32, count: i32, share: f64): void {
    const scale = f64x2.splat(share)
    let to = this.out.colour(left, y)
    for (let i = 0, from = room; i < count; i++, from += 32, to += 16)
      v128.store(to, rounded(f64x2.mul(v128.load(from), scale), f64x2.mul(v128.load(from, 16), scale)))
  }
}
