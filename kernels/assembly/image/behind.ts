import { BehindArguments } from '../../build/arguments'
import {
  acrossIn,
  atLevel,
  CLOSE_BY,
  closeness,
  downIn,
  foundX,
  foundY,
  leastBehind,
  levelAt,
  levelFound,
  weight0,
  weight1,
  weight2,
  weight3,
} from '../behind'
import { ONE } from '../constants'
import * as L from '../layout'
import { Raster } from '../raster'


@inline
function part(level: Raster, x: i32, y: i32, weight: f32): v128 {
  if (!(weight > 0)) return f32x4.splat(0)
  return f32x4.mul(v128.load(level.colour(acrossIn(level, x), downIn(level, y))), f32x4.splat(weight))
}


@final @unmanaged
export class Behind extends BehindArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const found = this.behind.colour(x, y)
      if (load<f32>(found) == <f32>L.NOT_ALONE) {
        v128.store(to, i32x4.splat(0))
        continue
      }
      const l = levelFound(found)
      if (l == CLOSE_BY) {
        v128.store(to, this.closeBy(x, y, leastBehind(load<f32>(found, 4))))
        continue
      }
      atLevel(levelAt(this.circle1, l), l, load<f32>(this.circle.single(x, y)), x, y)
      const level = levelAt(this.colour1, l)
      v128.store(
        to,
        f32x4.add(
          f32x4.add(part(level, foundX, foundY, weight0), part(level, foundX + 1, foundY, weight1)),
          f32x4.add(part(level, foundX, foundY + 1, weight2), part(level, foundX + 1, foundY + 1, weight3)),
        ),
      )
    }
  }

  /** The colour of what stands alone and far enough about a pixel. */
  closeBy(x: i32, y: i32, leastCircle: f32): v128 {
    const alone = this.alone
    let sum = f32x4.splat(0)
    let weights: f32 = 0
    for (let qy = max(alone.top, y - L.CUT_REACH); qy <= min(alone.bottom - 1, y + L.CUT_REACH); qy++)
      for (let qx = max(alone.left, x - L.CUT_REACH); qx <= min(alone.right - 1, x + L.CUT_REACH); qx++) {
        if (load<f32>(alone.single(qx, qy)) <= leastCircle) continue
        const weight = closeness(qx - x, qy - y)
        sum = f32x4.add(sum, f32x4.mul(v128.load(this.source.colour(qx, qy)), f32x4.splat(weight)))
        weights += weight
      }
    return f32x4.mul(sum, f32x4.splat(ONE / weights))
  }
}
