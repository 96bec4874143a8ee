// Four pixels that become one, and which of them are the farthest: those within so many pixels of the largest circle.
import { Raster } from './raster'
import * as L from './layout'

/** Where the four stand: two columns, two rows. */
export let leftOf: i32 = 0
export let rightOf: i32 = 0
export let upperOf: i32 = 0
export let lowerOf: i32 = 0
let circles: v128 = i32x4.splat(0)
let counted: i32 = 0

/** Looks at the four that become x, y. */
export function lookAtFour(circle: Raster, x: i32, y: i32, within: f32): void {
  leftOf = x * 2
  rightOf = min(x * 2 + 1, circle.right - 1)
  upperOf = y * 2
  lowerOf = min(y * 2 + 1, circle.bottom - 1)
  const a = load<f32>(circle.single(leftOf, upperOf))
  const b = load<f32>(circle.single(rightOf, upperOf))
  const c = load<f32>(circle.single(leftOf, lowerOf))
  const d = load<f32>(circle.single(rightOf, lowerOf))
  circles = f32x4(a, b, c, d)
  counted = i32x4.bitmask(f32x4.ge(circles, f32x4.splat(max(max(a, b), max(c, d)) - within)))
}

/** Whether one of the four (0 to 3, by rows) is among the farthest. */
@inline
export function isFarthest(which: i32): bool {
  return (counted & (1 << which)) != 0
}

/** The mean circle of the farthest; NOT_ALONE where there is none. */
export function farthestCircle(): f32 {
  if (!counted) return <f32>L.NOT_ALONE
  const kept = v128.and(
    circles,
    i32x4(-(counted & 1), -((counted >> 1) & 1), -((counted >> 2) & 1), -((counted >> 3) & 1)),
  )
  const sum =
    f32x4.extract_lane(kept, 0) +
    f32x4.extract_lane(kept, 1) +
    f32x4.extract_lane(kept, 2) +
    f32x4.extract_lane(kept, 3)
  return sum / <f32>popcnt(counted)
}
