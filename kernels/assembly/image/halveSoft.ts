// Half as large, each pixel of a bell over four by four (1 3 3 1): what lies between two pixels of the result is in both,
// as much as it is near, so that nothing moves. The way back (doubled.ts) is the same turned over.
import { HalveSoftArguments } from '../../build/arguments'
import { Raster } from '../raster'

const SIDE: f32 = 0.125
const MIDDLE: f32 = 0.375
let first: usize = 0
let second: usize = 0
let third: usize = 0
let fourth: usize = 0


@inline
function column(offset: usize): v128 {
  return f32x4.add(
    f32x4.mul(f32x4.add(v128.load(first + offset), v128.load(fourth + offset)), f32x4.splat(SIDE)),
    f32x4.mul(f32x4.add(v128.load(second + offset), v128.load(third + offset)), f32x4.splat(MIDDLE)),
  )
}


@inline
function rowOf(source: Raster, y: i32): usize {
  return source.colour(source.left, max(source.top, min(source.bottom - 1, y)))
}


@final
@unmanaged
export class HalveSoft extends HalveSoftArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    first = rowOf(source, y * 2 - 1)
    second = rowOf(source, y * 2)
    third = rowOf(source, y * 2 + 1)
    fourth = rowOf(source, y * 2 + 2)
    const most = source.right - 1 - source.left
    let from = x0 * 2 - 1 - source.left
    let a = column((<usize>max(0, min(most, from))) << 4)
    let b = column((<usize>max(0, min(most, from + 1))) << 4)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16, from += 2) {
      const c = column((<usize>max(0, min(most, from + 2))) << 4)
      const d = column((<usize>max(0, min(most, from + 3))) << 4)
      v128.store(
        to,
        f32x4.add(f32x4.mul(f32x4.add(a, d), f32x4.splat(SIDE)), f32x4.mul(f32x4.add(b, c), f32x4.splat(MIDDLE))),
      )
      a = c
      b = d
    }
  }
}
