import { DepthMatteArguments } from '../../build/arguments'
import { inRange } from '../ramp'


@final
@unmanaged
export class DepthMatte extends DepthMatteArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let from = this.depth.single(x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, from += 4, to += 4)
      store<f32>(to, inRange(load<f32>(from), this.near, this.far, this.soft, this.invert))
  }
}
