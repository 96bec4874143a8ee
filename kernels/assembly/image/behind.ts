import { BehindArguments } from '../../build/arguments'
import {
  acrossIn,
  atLevel,
  CLOSE_BY,
  closeness,
  downIn,
  forgetCells,
  foundX,
  foundY,
  LEAST_APART,
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

/** Where no more than this is left of what is behind, nothing can be said of its light. */
const MOST_SHARE: f32 = 0.97
/** Of the square of a mean, so much of a variance is always there. */
const LEAST_VARIANCE: f32 = 1e-2
const TINY: f32 = 1e-12
/** Pixels of circle by which what stands alone about may differ from what is before, and be the same. */
const ALIKE_BEFORE: f32 = 0.35

/** Of red, green and blue together, from the weighted sum of squares and the mean. */
@inline
function variance(squares: v128, mean: v128, weights: f32): f32 {
  const square = f32x4.mul(mean, mean)
  const apart = f32x4.sub(f32x4.mul(squares, f32x4.splat(ONE / weights)), square)
  return max<f32>(0, total(apart)) + LEAST_VARIANCE * total(square) + TINY
}


@inline
function total(colour: v128): f32 {
  return f32x4.extract_lane(colour, 0) + f32x4.extract_lane(colour, 1) + f32x4.extract_lane(colour, 2)
}


@inline
function part(level: Raster, x: i32, y: i32, weight: f32): v128 {
  if (!(weight > 0)) return f32x4.splat(0)
  return f32x4.mul(v128.load(level.colour(acrossIn(level, x), downIn(level, y))), f32x4.splat(weight))
}


@final @unmanaged
export class Behind extends BehindArguments {
  row(x0: i32, x1: i32, y: i32): void {
    forgetCells()
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const found = this.behind.colour(x, y)
      if (load<f32>(found) == <f32>L.NOT_ALONE) {
        v128.store(to, i32x4.splat(0))
        continue
      }
      const l = levelFound(found)
      if (l == CLOSE_BY) {
        v128.store(to, this.closeBy(x, y, found))
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

  /**
   * The colour of what stands alone and far enough about a pixel, as far as the pixel itself does not say otherwise: what
   * both leave over of its light is of that which varies more about it. Least squares: with variances u of what is before
   * and v of what is behind, of which the pixel shows s and 1 - s, what is behind is (1 - s) v / (s² u + (1 - s)² v) times
   * what is over away from its mean.
   */
  closeBy(x: i32, y: i32, found: usize): v128 {
    const alone = this.alone
    const circle = load<f32>(found, 4)
    const leastCircle = leastBehind(circle)
    const none = f32x4.splat(0)
    let sum = none
    let squares = none
    let weights: f32 = 0
    let sumBefore = none
    let squaresBefore = none
    let before: f32 = 0
    // A thing so thin that it is nowhere alone is as where it covers most
    let sumMixed = none
    let squaresMixed = none
    let mixed: f32 = 0
    for (let qy = max(alone.top, y - L.CUT_REACH); qy <= min(alone.bottom - 1, y + L.CUT_REACH); qy++)
      for (let qx = max(alone.left, x - L.CUT_REACH); qx <= min(alone.right - 1, x + L.CUT_REACH); qx++) {
        const there = load<f32>(alone.single(qx, qy))
        // Of what is before the very thing, not another before that
        const isBehind = there > leastCircle
        const isMixed = there == <f32>L.NOT_ALONE
        const own = isMixed ? load<f32>(this.circle.single(qx, qy)) : there
        if (!isBehind && !(abs<f32>(own - circle) < ALIKE_BEFORE)) continue
        if (qx == x && qy == y) continue
        const weight = closeness(qx - x, qy - y)
        const colour = v128.load(this.source.colour(qx, qy))
        const light = f32x4.mul(colour, f32x4.splat(weight))
        if (isBehind) {
          sum = f32x4.add(sum, light)
          squares = f32x4.add(squares, f32x4.mul(light, colour))
          weights += weight
        } else if (isMixed) {
          sumMixed = f32x4.add(sumMixed, light)
          squaresMixed = f32x4.add(squaresMixed, f32x4.mul(light, colour))
          mixed += weight
        } else {
          sumBefore = f32x4.add(sumBefore, light)
          squaresBefore = f32x4.add(squaresBefore, f32x4.mul(light, colour))
          before += weight
        }
      }
    const mean = f32x4.mul(sum, f32x4.splat(ONE / weights))
    if (!(before > 0)) {
      sumBefore = sumMixed
      squaresBefore = squaresMixed
      before = mixed
    }
    if (!(before > 0)) return mean
    const nearest = load<f32>(found, 8)
    const far = load<f32>(found, 12)
    let share = far - nearest > LEAST_APART ? (far - load<f32>(this.mean.single(x, y))) / (far - nearest) : 1
    if (!(share < MOST_SHARE)) return mean
    share = max<f32>(0, share)
    const open = ONE - share
    const meanBefore = f32x4.mul(sumBefore, f32x4.splat(ONE / before))
    const own = v128.load(this.source.colour(x, y))
    const over = f32x4.sub(
      own,
      f32x4.add(f32x4.mul(meanBefore, f32x4.splat(share)), f32x4.mul(mean, f32x4.splat(open))),
    )
    const u = variance(squaresBefore, meanBefore, before) * share * share
    const v = variance(squares, mean, weights) * open * open
    return f32x4.max(none, f32x4.add(mean, f32x4.mul(over, f32x4.splat(v / (u + v) / open))))
  }
}
