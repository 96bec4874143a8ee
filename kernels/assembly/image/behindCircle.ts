import { BehindCircleArguments } from '../../build/arguments'
import { CLOSE_BY, findBehind, forgetCells, foundCircle, foundLevel, foundMean, nearCircle, nearMean } from '../behind'
import * as L from '../layout'

/** Pixels in a row that may have the same behind them, where they stand alone and their circle is large. */
const TOGETHER: i32 = 4
const LARGE: f32 = 4
/** Pixels by which their circles may differ. */
const ALIKE: f32 = 0.15


@final
@unmanaged
export class BehindCircle extends BehindCircleArguments {
  row(x0: i32, x1: i32, y: i32): void {
    forgetCells()
    let to = this.out.colour(x0, y)
    let circle = this.circle.single(x0, y)
    let alone = this.alone.single(x0, y)
    for (let x = x0; x < x1; x++, to += 16, circle += 4, alone += 4) {
      const back = x & (TOGETHER - 1)
      const first = x - back
      const bytes = (<usize>back) << 2
      if (
        back &&
        first >= this.alone.left &&
        load<f32>(alone) != <f32>L.NOT_ALONE &&
        load<f32>(alone - bytes) != <f32>L.NOT_ALONE &&
        abs<f32>(load<f32>(circle)) >= LARGE &&
        abs<f32>(load<f32>(circle) - load<f32>(circle - bytes)) < ALIKE
      ) {
        // Where they begin before what is asked for it is found again, to the same bit
        v128.store(to, first >= x0 ? v128.load(to - (bytes << 2)) : this.found(first, y))
        continue
      }
      v128.store(to, this.found(x, y))
    }
  }

  found(x: i32, y: i32): v128 {
    findBehind(load<f32>(this.circle.single(x, y)), this.mean, this.alone, this.circle1, x, y)
    if (foundLevel == 0) return f32x4(<f32>L.NOT_ALONE, 0, 0, 0)
    if (foundLevel == CLOSE_BY) return f32x4(foundCircle, nearCircle, nearMean, foundMean)
    return f32x4(foundCircle, 0, <f32>L.FOUND_ON_LEVEL + <f32>foundLevel, 0)
  }
}
