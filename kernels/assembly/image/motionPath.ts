import { MotionPathArguments } from '../../build/arguments'
import { farthestSquare } from '../motion'


@final
@unmanaged
export class MotionPath extends MotionPathArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const most = this.most * this.most
    let from = this.source.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, from += 16, to += 16) {
      const forward = v128.load(from)
      const back = v128.shuffle<f32>(forward, forward, 2, 3, 0, 1)
      // Half of both: the way at the frame and the bend; the first two of one, then of the other
      const way = f32x4.mul(f32x4.sub(forward, back), f32x4.splat(0.5))
      const bend = f32x4.mul(f32x4.add(forward, back), f32x4.splat(0.5))
      const path = v128.shuffle<f32>(way, bend, 0, 1, 4, 5)
      const far = farthestSquare(path, this.open, this.close)
      // What is no number goes nowhere
      if (!(far < Infinity)) v128.store(to, f32x4.splat(0))
      else v128.store(to, far > most ? f32x4.mul(path, f32x4.splat(this.most / sqrt<f32>(far))) : path)
    }
  }
}
