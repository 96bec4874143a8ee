import { SaturationArguments } from '../../build/arguments'
import { luminance } from '../points'


@final @unmanaged
export class Saturation extends SaturationArguments {

  @inline
  at(value: v128, _x: i32, _y: i32): v128 {
    const grey = luminance(value)
    return f32x4.add(grey, f32x4.mul(f32x4.sub(value, grey), this.amount))
  }
}
