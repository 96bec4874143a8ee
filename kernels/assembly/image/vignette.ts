// An ellipse, distance in units of its radii, a smooth ramp from 1 to (1 - amount).
import { VignetteArguments } from '../../build/arguments'
import { HALF, ONE } from '../constants'


@final
@unmanaged
export class Vignette extends VignetteArguments {

  @inline
  at(value: v128, x: i32, y: i32): v128 {
    const dx = (<f32>x + HALF - this.middleX) * this.inverseX
    const dy = (<f32>y + HALF - this.middleY) * this.inverseY
    const d = sqrt<f32>(dx * dx + dy * dy)
    // Inside nothing is taken
    if (d <= this.from) return value
    const t = min<f32>(1, (d - this.from) * this.slope)
    return f32x4.mul(value, f32x4.splat(ONE - this.amount * t * t * (<f32>3 - t - t)))
  }
}
