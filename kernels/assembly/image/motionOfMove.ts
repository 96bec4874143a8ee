import { MotionOfMoveArguments } from '../../build/arguments'
import { HALF } from '../constants'


@final
@unmanaged
export class MotionOfMove extends MotionOfMoveArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const py = <f32>y + HALF
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const px = <f32>x + HALF
      store<f32>(to, this.a * px + this.b * py + this.c - px)
      store<f32>(to, this.d * px + this.e * py + this.f - py, 4)
      store<f32>(to, this.backA * px + this.backB * py + this.backC - px, 8)
      store<f32>(to, this.backD * px + this.backE * py + this.backF - py, 12)
    }
  }
}
