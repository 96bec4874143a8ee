// ASC CDL 1.2: (in slope + offset) ^ power, then saturation. Nothing is held to 1 (scene-linear), and below 0 the power
// is 1.
import { CdlArguments } from '../../build/arguments'
import { luminance } from '../points'
import { pow4 } from '../power'


@final @unmanaged
export class Cdl extends CdlArguments {

  @inline
  at(value: v128, _x: i32, _y: i32): v128 {
    const linear = f32x4.add(f32x4.mul(value, this.slope), this.offset)
    const raised = v128.bitselect(pow4(linear, this.power), linear, f32x4.gt(linear, f32x4.splat(0)))
    const grey = luminance(raised)
    return f32x4.add(grey, f32x4.mul(f32x4.sub(raised, grey), this.saturation))
  }
}
