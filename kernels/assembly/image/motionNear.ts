import { MotionNearArguments } from '../../build/arguments'
import * as L from '../layout'
import { apartSquare, farthestSquare } from '../motion'


@final
@unmanaged
export class MotionNear extends MotionNearArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const most = this.most
    for (let x = x0; x < x1; x++) {
      const to = this.out.colour(x, y)
      const other = this.other.there ? v128.load(this.other.colour(x, y)) : f32x4.splat(0)
      let best = f32x4.splat(0)
      let far: f32 = -1
      const top = max(this.fast.top, y - most)
      const bottom = min(this.fast.bottom, y + most + 1)
      const left = max(this.fast.left, x - most)
      const right = min(this.fast.right, x + most + 1)
      for (let py = top; py < bottom; py++)
        for (let px = left; px < right; px++) {
          // Pixels between the two cells, which a path must reach over
          const across = <f32>(max(0, abs(px - x) - 1) * L.MOTION_CELL)
          const down = <f32>(max(0, abs(py - y) - 1) * L.MOTION_CELL)
          const between = across * across + down * down
          const fast = v128.load(this.fast.colour(px, py))
          const reach = farthestSquare(fast, this.open, this.close)
          if (reach < between) continue
          if (!this.other.there) {
            if (reach > far) {
              far = reach
              best = fast
            }
            continue
          }
          const apart = apartSquare(fast, other, this.open, this.close)
          if (apart > far) {
            far = apart
            best = fast
          }
          const slow = v128.load(this.slow.colour(px, py))
          if (farthestSquare(slow, this.open, this.close) < between) continue
          const slowApart = apartSquare(slow, other, this.open, this.close)
          if (slowApart > far) {
            far = slowApart
            best = slow
          }
        }
      v128.store(to, best)
    }
  }
}
