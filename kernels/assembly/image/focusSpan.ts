import { FocusSpanArguments } from '../../build/arguments'
import * as L from '../layout'


@final
@unmanaged
export class FocusSpan extends FocusSpanArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const parts = this.parts
    const top = max(parts.top, y * L.FOCUS_CELL)
    const bottom = min(parts.bottom, (y + 1) * L.FOCUS_CELL)
    for (let x = x0; x < x1; x++) {
      const left = max(parts.left, x * L.FOCUS_CELL)
      const right = min(parts.right, (x + 1) * L.FOCUS_CELL)
      let low = f32x4.splat(1e9)
      let high = f32x4.splat(-1e9)
      for (let py = top; py < bottom; py++)
        for (let px = left, from = parts.colour(left, py); px < right; px++, from += 16) {
          const part = v128.load(from)
          low = f32x4.pmin(low, part)
          high = f32x4.pmax(high, part)
        }
      const to = this.out.colour(x, y)
      store<f32>(to, f32x4.extract_lane(low, 1))
      store<f32>(to, f32x4.extract_lane(high, 1), 4)
      store<f32>(to, f32x4.extract_lane(low, 2), 8)
      store<f32>(to, f32x4.extract_lane(high, 2), 12)
    }
  }
}
