import { BehindCircleArguments } from '../../build/arguments'
import { CLOSE_BY, findBehind, foundCircle, foundLevel, foundMean, nearCircle, nearMean } from '../behind'
import * as L from '../layout'


@final
@unmanaged
export class BehindCircle extends BehindCircleArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      findBehind(load<f32>(this.circle.single(x, y)), this.mean, this.alone, this.circle1, x, y)
      v128.store(
        to,
        foundLevel == 0
          ? f32x4(<f32>L.NOT_ALONE, 0, 0, 0)
          : foundLevel == CLOSE_BY
            ? f32x4(foundCircle, nearCircle, nearMean, foundMean)
            : f32x4(foundCircle, 0, <f32>L.FOUND_ON_LEVEL + <f32>foundLevel, 0),
      )
    }
  }
}
