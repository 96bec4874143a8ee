import { CircleAloneArguments } from '../../build/arguments'
import * as L from '../layout'

/** Pixels by which circles may differ and still be of one distance. */
export const ALIKE: f32 = 0.05
/** And within two pixels of each other, where all that is seen slants away, or lies behind the same glass. */
const FLAT: f32 = 0.6
const ABOUT: i32 = 2


@final @unmanaged
export class CircleAlone extends CircleAloneArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let mean = this.mean.single(x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, mean += 4, to += 4) {
      const own = load<f32>(this.circle.single(x, y))
      const alone = abs<f32>(load<f32>(mean) - own) <= ALIKE || this.isFlat(x, y, own)
      store<f32>(to, alone ? own : <f32>L.NOT_ALONE)
    }
  }

  isFlat(x: i32, y: i32, own: f32): bool {
    const circle = this.circle
    for (let qy = max(circle.top, y - ABOUT); qy <= min(circle.bottom - 1, y + ABOUT); qy++)
      for (let qx = max(circle.left, x - ABOUT); qx <= min(circle.right - 1, x + ABOUT); qx++)
        if (abs<f32>(load<f32>(circle.single(qx, qy)) - own) > FLAT) return false
    return true
  }
}
