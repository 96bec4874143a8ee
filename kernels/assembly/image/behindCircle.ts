import { BehindCircleArguments } from '../../build/arguments'
import { findBehind, foundCircle, foundLevel } from '../behind'
import * as L from '../layout'


@final
@unmanaged
export class BehindCircle extends BehindCircleArguments {
  row(x0: i32, x1: i32, y: i32): void {
    for (let x = x0; x < x1; x++) {
      findBehind(load<f32>(this.circle.single(x, y)), this.mean, this.alone, this.circle1, x, y)
      store<f32>(this.out.single(x, y), foundLevel ? foundCircle : <f32>L.NOT_ALONE)
    }
  }
}
