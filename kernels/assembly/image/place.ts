import { PlaceArguments } from '../../build/arguments'
import { straight } from '../between'
import { HALF } from '../constants'


@final @unmanaged
export class Place extends PlaceArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const edge = this.edge
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
      v128.store(to, straight(source, sx, sy, edge))
    }
  }
}
