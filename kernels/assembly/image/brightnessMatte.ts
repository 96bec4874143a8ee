import { BrightnessMatteArguments } from '../../build/arguments'
import { luminance } from '../points'
import { inRange } from '../ramp'


@final
@unmanaged
export class BrightnessMatte extends BrightnessMatteArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let from = this.source.colour(x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, from += 16, to += 4) {
      const value = v128.load(from)
      const alpha = f32x4.extract_lane(value, 3)
      const light = f32x4.extract_lane(luminance(value), 0)
      store<f32>(to, inRange(alpha > 0 ? light / alpha : light, this.low, this.high, this.soft, this.invert))
    }
  }
}
