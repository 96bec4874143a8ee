import { FarHalveCircleArguments } from '../../build/arguments'
import { farthestCircle, lookAtFour } from '../farthest'


@final
@unmanaged
export class FarHalveCircle extends FarHalveCircleArguments {
  row(x0: i32, x1: i32, y: i32): void {
    for (let x = x0, to = this.out.single(x0, y); x < x1; x++, to += 4) {
      lookAtFour(this.circle, x, y, this.within)
      store<f32>(to, farthestCircle())
    }
  }
}
