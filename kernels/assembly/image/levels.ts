import { LevelsArguments } from '../../build/arguments'
import { pow4 } from '../power'


@final
@unmanaged
export class Levels extends LevelsArguments {

  @inline
  at(value: v128, _x: i32, _y: i32): v128 {
    const t = f32x4.mul(f32x4.sub(value, this.low), this.scale)
    const bent =
      f32x4.extract_lane(this.power, 0) == 1 ? t : v128.bitselect(pow4(t, this.power), t, f32x4.gt(t, f32x4.splat(0)))
    return f32x4.add(this.outLow, f32x4.mul(bent, this.outSpan))
  }
}
