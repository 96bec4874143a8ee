import { BehindArguments } from '../../build/arguments'
import {
  acrossIn,
  atLevel,
  CLOSE_BY,
  closeness,
  downIn,
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
/** What is before may be so much brighter at its edge than anywhere about. */
const BRIGHTER: f32 = 1.15
/** So much brighter again than both, light that is of neither counts whole. */
const LITTLE: f32 = 0.3
const TINY: f32 = 1e-9
/** Pixels of circle by which what stands alone about may differ from what is before, and be the same. */
const ALIKE_BEFORE: f32 = 0.35
/** And by which share of how much farther it is what is behind may differ. */
const ALIKE_SHARE: f32 = 0.1


@inline
function greatest(colour: v128): f32 {
  return max(max(f32x4.extract_lane(colour, 0), f32x4.extract_lane(colour, 1)), f32x4.extract_lane(colour, 2))
}


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
   * The colour of what stands alone and far enough about a pixel. Where that leaves more light to what is before it than
   * that has anywhere about, the rest is of what is behind: a lamp of which an edge hides all but a sliver, say.
   */
  closeBy(x: i32, y: i32, found: usize): v128 {
    const alone = this.alone
    const circle = load<f32>(found, 4)
    const leastCircle = leastBehind(circle)
    const none = f32x4.splat(0)
    let sum = none
    let weights: f32 = 0
    let brightest = none
    let isBefore = false
    for (let qy = max(alone.top, y - L.CUT_REACH); qy <= min(alone.bottom - 1, y + L.CUT_REACH); qy++)
      for (let qx = max(alone.left, x - L.CUT_REACH); qx <= min(alone.right - 1, x + L.CUT_REACH); qx++) {
        const there = load<f32>(alone.single(qx, qy))
        if (there <= leastCircle) {
          // The very thing, not another before it
          if (abs<f32>(there - circle) < ALIKE_BEFORE) {
            brightest = f32x4.max(brightest, v128.load(this.source.colour(qx, qy)))
            isBefore = true
          }
          continue
        }
        const weight = closeness(qx - x, qy - y)
        sum = f32x4.add(sum, f32x4.mul(v128.load(this.source.colour(qx, qy)), f32x4.splat(weight)))
        weights += weight
      }
    const mean = f32x4.mul(sum, f32x4.splat(ONE / weights))
    if (!isBefore) return mean
    const nearest = load<f32>(found, 8)
    const far = load<f32>(found, 12)
    const share = far - nearest > LEAST_APART ? (far - load<f32>(this.mean.single(x, y))) / (far - nearest) : 1
    if (!(share < MOST_SHARE)) return mean
    const held = max<f32>(0, share)
    // Brighter than both: what is mixed of two lies between them, however wrong the shares
    const own = v128.load(this.source.colour(x, y))
    const over = greatest(own) / max<f32>(greatest(f32x4.max(mean, brightest)), TINY) - BRIGHTER
    const counts = min<f32>(1, over / LITTLE)
    if (!(counts > 0) || this.isCrossed(x, y, circle, load<f32>(found))) return mean
    const open = f32x4.splat(ONE - held)
    const rest = f32x4.sub(own, f32x4.mul(brightest, f32x4.splat(held * BRIGHTER)))
    const more = f32x4.max(none, f32x4.sub(f32x4.div(rest, open), mean))
    return f32x4.add(mean, f32x4.mul(more, f32x4.splat(counts)))
  }

  /** Whether something stands about that is neither before nor behind: light may be its own. */
  isCrossed(x: i32, y: i32, before: f32, behind: f32): bool {
    const mean = this.mean
    const left = max(mean.left, x - L.CUT_REACH)
    const right = min(mean.right - 1, x + L.CUT_REACH)
    for (let qy = max(mean.top, y - L.CUT_REACH); qy <= min(mean.bottom - 1, y + L.CUT_REACH); qy++)
      for (let qx = left; qx <= right; qx++) {
        const own = load<f32>(this.circle.single(qx, qy))
        if (min(load<f32>(mean.single(qx, qy)), own) < before - LEAST_APART) return true
        if (own > before + ALIKE_BEFORE && own < behind - max(ALIKE_BEFORE, (behind - before) * ALIKE_SHARE))
          return true
      }
    return false
  }
}
