import { LensSingleArguments } from '../../build/arguments'
import { bendAt } from '../bend'
import { HALF } from '../constants'


@final
@unmanaged
export class LensSingle extends LensSingleArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, to += 4) {
      const px = (<f32>x + HALF - this.middleX) / this.half
      const py = (<f32>y + HALF - this.middleY) / this.half
      const scale = bendAt(px, py, this.k1, this.k2, this.bent)
      const sx = px * scale * this.sourceHalf + this.sourceX
      const sy = py * scale * this.sourceHalf + this.sourceY
      if (!this.smooth) {
        store<f32>(to, this.pick(<i32>floor<f32>(sx), <i32>floor<f32>(sy)))
        continue
      }
      const left = <i32>floor<f32>(sx - HALF)
      const top = <i32>floor<f32>(sy - HALF)
      const tx = sx - HALF - <f32>left
      const ty = sy - HALF - <f32>top
      const upper = this.pick(left, top) * (<f32>1 - tx) + this.pick(left + 1, top) * tx
      const lower = this.pick(left, top + 1) * (<f32>1 - tx) + this.pick(left + 1, top + 1) * tx
      store<f32>(to, upper * (<f32>1 - ty) + lower * ty)
    }
  }


  @inline
  pick(x: i32, y: i32): f32 {
    const source = this.source
    return x >= source.left && x < source.right && y >= source.top && y < source.bottom
      ? load<f32>(source.single(x, y))
      : this.nothing
  }
}
