import { MotionCellsArguments } from '../../build/arguments'
import * as L from '../layout'
import { farthestSquare } from '../motion'


@final
@unmanaged
export class MotionCells extends MotionCellsArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const paths = this.paths
    const top = max(paths.top, y * L.MOTION_CELL)
    const bottom = min(paths.bottom, (y + 1) * L.MOTION_CELL)
    for (let x = x0; x < x1; x++) {
      const left = max(paths.left, x * L.MOTION_CELL)
      const right = min(paths.right, (x + 1) * L.MOTION_CELL)
      let best = f32x4.splat(0)
      let far: f32 = this.fast ? -1 : Infinity
      for (let py = top; py < bottom; py++)
        for (let px = left, from = paths.colour(left, py); px < right; px++, from += 16) {
          const path = v128.load(from)
          const own = farthestSquare(path, this.open, this.close)
          if (this.fast ? own > far : own < far) {
            far = own
            best = path
          }
        }
      v128.store(this.out.colour(x, y), best)
    }
  }
}
