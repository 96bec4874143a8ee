// What is bright counts for less: one spark would colour all that is filled in beside it.
import { FarHalveArguments } from '../../build/arguments'
import { ONE } from '../constants'
import { isFarthest, leftOf, lookAtFour, lowerOf, rightOf, upperOf } from '../farthest'


@inline
function sparkWeight(pixel: v128): f32 {
  const most = max(max(f32x4.extract_lane(pixel, 0), f32x4.extract_lane(pixel, 1)), f32x4.extract_lane(pixel, 2))
  return ONE / (ONE + max<f32>(0, most))
}


@final @unmanaged
export class FarHalve extends FarHalveArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    for (let x = x0, to = this.out.colour(x0, y); x < x1; x++, to += 16) {
      lookAtFour(this.circle, x, y, this.within)
      let sum = f32x4.splat(0)
      let weights: f32 = 0
      for (let i = 0; i < 4; i++) {
        if (!isFarthest(i)) continue
        const pixel = v128.load(source.colour(i & 1 ? rightOf : leftOf, i & 2 ? lowerOf : upperOf))
        const weight = sparkWeight(pixel)
        sum = f32x4.add(sum, f32x4.mul(pixel, f32x4.splat(weight)))
        weights += weight
      }
      v128.store(to, f32x4.mul(sum, f32x4.splat(weights > 0 ? ONE / weights : 0)))
    }
  }
}
