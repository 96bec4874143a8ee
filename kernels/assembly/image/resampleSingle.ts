import { ResampleSingleArguments } from '../../build/arguments'
import { HALF } from '../constants'


@final
@unmanaged
export class ResampleSingle extends ResampleSingleArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    let from = this.map.colour(x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, from += 16, to += 4) {
      const sx = load<f32>(from)
      const sy = load<f32>(from, 4)
      const isThere =
        sx >= <f32>source.left && sy >= <f32>source.top && sx < <f32>source.right && sy < <f32>source.bottom
      if (!isThere) {
        store<f32>(to, this.nothing)
        continue
      }
      if (this.how == 0) {
        store<f32>(to, load<f32>(source.single(<i32>floor<f32>(sx), <i32>floor<f32>(sy))))
        continue
      }
      const column = <i32>floor<f32>(sx - HALF)
      const line = <i32>floor<f32>(sy - HALF)
      const fx = sx - HALF - <f32>column
      const fy = sy - HALF - <f32>line
      const left = max(source.left, column)
      const right = min(source.right - 1, column + 1)
      const top = max(source.top, line)
      const bottom = min(source.bottom - 1, line + 1)
      const a = load<f32>(source.single(left, top))
      const b = load<f32>(source.single(right, top))
      const c = load<f32>(source.single(left, bottom))
      const d = load<f32>(source.single(right, bottom))
      const upper = a + (b - a) * fx
      store<f32>(to, upper + (c + (d - c) * fx - upper) * fy)
    }
  }
}
