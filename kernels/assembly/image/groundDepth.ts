import { GroundDepthArguments } from '../../build/arguments'
import { HALF } from '../constants'
import { groundT, receive } from '../receiver'


@final
@unmanaged
export class GroundDepth extends GroundDepthArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let to = this.out.single(x0, y)
    const zero = f32x4.splat(0)
    for (let x = x0; x < x1; x += 4, to += 16) {
      receive(this.place, f32x4.add(f32x4.splat(<f32>x + HALF), f32x4(0, 1, 2, 3)), f32x4.splat(<f32>y + HALF))
      const metres = f32x4.max(zero, f32x4.mul(groundT, f32x4.splat(this.times)))
      // The last ones may be fewer than four
      if (x + 4 <= x1) {
        v128.store(to, metres)
        continue
      }
      store<f32>(to, f32x4.extract_lane(metres, 0))
      if (x + 1 < x1) store<f32>(to, f32x4.extract_lane(metres, 1), 4)
      if (x + 2 < x1) store<f32>(to, f32x4.extract_lane(metres, 2), 8)
    }
  }
}
