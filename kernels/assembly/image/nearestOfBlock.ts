import { NearestOfBlockArguments } from '../../build/arguments'
import { WATER_BLOCK } from '../layout'


@final
@unmanaged
export class NearestOfBlock extends NearestOfBlockArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const depth = this.depth
    const top = max(depth.top, y * WATER_BLOCK)
    const bottom = min(depth.bottom, (y + 1) * WATER_BLOCK)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, to += 4) {
      const left = max(depth.left, x * WATER_BLOCK)
      const right = min(depth.right, (x + 1) * WATER_BLOCK)
      let least = this.most
      for (let row = top; row < bottom; row++) {
        let at = depth.single(left, row)
        for (let column = left; column < right; column++, at += 4) least = min<f32>(least, load<f32>(at))
      }
      store<f32>(to, least)
    }
  }
}
