import { DepthRampArguments } from '../../build/arguments'


@final
@unmanaged
export class DepthRamp extends DepthRampArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let from = this.depth.single(x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, from += 4, to += 4)
      store<f32>(to, max<f32>(0, min<f32>(1, (load<f32>(from) - this.near) * this.scale)))
  }
}
