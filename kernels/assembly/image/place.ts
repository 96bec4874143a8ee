import { PlaceArguments } from '../../build/arguments'
import { HALF } from '../constants'
import { Raster } from '../raster'


@inline
function pick(source: Raster, x: i32, y: i32, edge: i32): v128 {
  if (edge) {
    x = max(source.left, min(source.right - 1, x))
    y = max(source.top, min(source.bottom - 1, y))
  } else if (x < source.left || y < source.top || x >= source.right || y >= source.bottom) return i32x4.splat(0)
  return v128.load(source.colour(x, y))
}


@final @unmanaged
export class Place extends PlaceArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const edge = this.edge
    const pixels = source.pointer
    const stride = source.stride
    const down = (<usize>stride) << 4
    const left = <f32>(source.left - 1)
    const top = <f32>(source.top - 1)
    const right = <f32>source.right
    const bottom = <f32>source.bottom
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const px = <f32>x + HALF
      const py = <f32>y + HALF
      const sx = this.a * px + this.b * py + this.c - HALF
      const sy = this.d * px + this.e * py + this.f - HALF
      if (!(sx > left && sy > top && sx < right && sy < bottom) && !edge) {
        v128.store(to, i32x4.splat(0))
        continue
      }
      const column = <i32>floor<f32>(sx)
      const line = <i32>floor<f32>(sy)
      const fx = f32x4.splat(sx - <f32>column)
      const fy = f32x4.splat(sy - <f32>line)
      let a: v128
      let b: v128
      let c: v128
      let d: v128
      if (column >= source.left && line >= source.top && column + 1 < source.right && line + 1 < source.bottom) {
        const first = pixels + ((<usize>((line - source.top) * stride + (column - source.left))) << 4)
        a = v128.load(first)
        b = v128.load(first, 16)
        c = v128.load(first + down)
        d = v128.load(first + down, 16)
      } else {
        a = pick(source, column, line, edge)
        b = pick(source, column + 1, line, edge)
        c = pick(source, column, line + 1, edge)
        d = pick(source, column + 1, line + 1, edge)
      }
      const upper = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx))
      const lower = f32x4.add(c, f32x4.mul(f32x4.sub(d, c), fx))
      v128.store(to, f32x4.add(upper, f32x4.mul(f32x4.sub(lower, upper), fy)))
    }
  }
}
