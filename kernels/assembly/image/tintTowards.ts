import { TintTowardsArguments } from '../../build/arguments'


@final
@unmanaged
export class TintTowards extends TintTowardsArguments {

  @inline
  at(value: v128, x: i32, y: i32): v128 {
    const share = load<f32>(this.share.single(x, y)) * this.amount
    const cover = v128.shuffle<f32>(value, value, 3, 3, 3, 3)
    return f32x4.add(value, f32x4.mul(f32x4.sub(f32x4.mul(this.tint, cover), value), f32x4.splat(share)))
  }
}
