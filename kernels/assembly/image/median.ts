// The middle value of a square, of each of the four channels by itself, all four at once.
import { MedianArguments } from '../../build/arguments'
import * as L from '../layout'
import { medianOf25 } from './median25'
import { middleOf } from './order'

let room: usize = 0
/** Three of a column in order. */
let low: v128 = f32x4.splat(0)
let mid: v128 = f32x4.splat(0)
let high: v128 = f32x4.splat(0)
export function initMedian(scratch: usize): void {
  room = scratch + L.SCRATCH_FOCUS
}
/** Halvings of the range between the least and greatest value, after which what is left of it is nothing to see. */
const HALVINGS: i32 = 22


@final
@unmanaged
export class Median extends MedianArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const radius = this.radius
    if (radius == 1) this.nine(x0, x1, y)
    else if (radius == 2) medianOf25(this.source, this.out, x0, x1, y, room)
    else for (let x = x0, to = this.out.colour(x0, y); x < x1; x++, to += 16) v128.store(to, this.narrowed(x, y))
  }

  /**
   * Of nine: columns of three in order go along from pixel to pixel. The middle one of all is the middle one of the
   * greatest of their least, the middle of their middle, and the least of their greatest.
   */
  nine(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const row = (<usize>source.stride) << 4
    let from = source.colour(x0 - 1, y - 1)
    this.column(from, row)
    let lowA = low
    let midA = mid
    let highA = high
    this.column((from += 16), row)
    let lowB = low
    let midB = mid
    let highB = high
    for (let x = x0, to = this.out.colour(x0, y); x < x1; x++, to += 16) {
      this.column((from += 16), row)
      const lows = f32x4.pmax(f32x4.pmax(lowA, lowB), low)
      const highs = f32x4.pmin(f32x4.pmin(highA, highB), high)
      v128.store(to, middleOf(lows, middleOf(midA, midB, mid), highs))
      lowA = lowB
      midA = midB
      highA = highB
      lowB = low
      midB = mid
      highB = high
    }
  }


  @inline
  column(from: usize, row: usize): void {
    const a = v128.load(from)
    const b = v128.load(from + row)
    const c = v128.load(from + row + row)
    const less = f32x4.pmin(a, b)
    const more = f32x4.pmax(a, b)
    const rest = f32x4.pmin(more, c)
    high = f32x4.pmax(more, c)
    low = f32x4.pmin(less, rest)
    mid = f32x4.pmax(less, rest)
  }

  /** Of many: the value that half of them are not above, by halving the range it lies in. */
  narrowed(x: i32, y: i32): v128 {
    const source = this.source
    const radius = this.radius
    const side = radius * 2 + 1
    const half = f32x4.splat(0.5)
    const wanted = i32x4.splat(((side * side) >> 1) + 1)
    let low = f32x4.splat(Infinity)
    let high = f32x4.splat(-Infinity)
    for (let dy = -radius; dy <= radius; dy++)
      for (let i = 0, from = source.colour(x - radius, y + dy); i < side; i++, from += 16) {
        low = f32x4.pmin(low, v128.load(from))
        high = f32x4.pmax(high, v128.load(from))
      }
    for (let k = 0; k < HALVINGS; k++) {
      const middle = f32x4.add(low, f32x4.mul(f32x4.sub(high, low), half))
      let count = i32x4.splat(0)
      for (let dy = -radius; dy <= radius; dy++)
        for (let i = 0, from = source.colour(x - radius, y + dy); i < side; i++, from += 16)
          count = i32x4.sub(count, f32x4.le(v128.load(from), middle))
      const enough = i32x4.ge_s(count, wanted)
      high = v128.bitselect(middle, high, enough)
      low = v128.bitselect(low, middle, enough)
    }
    return high
  }
}
