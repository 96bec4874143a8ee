import { MotionOverArguments } from '../../build/arguments'
import { ONE } from '../constants'


@final
@unmanaged
export class MotionOver extends MotionOverArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const opacity = this.opacity
    let backdrop = this.backdrop.colour(x0, y)
    let below = this.below.colour(x0, y)
    let source = this.source.colour(x0, y)
    let motion = this.motion.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, backdrop += 16, below += 16, source += 16, motion += 16, to += 16) {
      const alpha = load<f32>(source, 12) * opacity
      const most = alpha > 0 && alpha >= (ONE - alpha) * load<f32>(below, 12)
      v128.store(to, v128.load(most ? motion : backdrop))
    }
  }
}
