import { GainArguments } from '../../build/arguments'


@final @unmanaged
export class Gain extends GainArguments {

  @inline
  at(value: v128, _x: i32, _y: i32): v128 {
    return f32x4.mul(value, this.gain)
  }
}
