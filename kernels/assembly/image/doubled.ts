// Twice as large, straight between pixels, to the bit as Place has it: what two neighbours of the result lie between is
// the same four pixels.
import { DoubledArguments } from '../../build/arguments'
import { straight } from '../between'
import { HALF } from '../constants'


@final
@unmanaged
export class Doubled extends DoubledArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const line = (y - 1) >> 1
    const isInside = line >= source.top && line + 1 < source.bottom
    // The first and last pixels of pairs that lie whole within the source
    const first = isInside ? max(x0 | 1, source.left * 2 + 1) : x1
    const last = min(x1 - 1, source.right * 2 - 2)
    const end = first < last ? first + ((last - first + 1) & ~1) : first
    let x = x0
    for (; x < min(first, x1); x++) this.single(x, y)
    if (x < end) {
      const fy = f32x4.splat(y & 1 ? 0.25 : 0.75)
      const near = f32x4.splat(0.25)
      const far = f32x4.splat(0.75)
      let upperFrom = source.colour((x - 1) >> 1, line)
      let lowerFrom = source.colour((x - 1) >> 1, line + 1)
      let a = v128.load(upperFrom)
      let c = v128.load(lowerFrom)
      for (let to = this.out.colour(x, y); x < end; x += 2, to += 32) {
        upperFrom += 16
        lowerFrom += 16
        const b = v128.load(upperFrom)
        const d = v128.load(lowerFrom)
        const right = f32x4.sub(b, a)
        const lowerRight = f32x4.sub(d, c)
        let upper = f32x4.add(a, f32x4.mul(right, near))
        let lower = f32x4.add(c, f32x4.mul(lowerRight, near))
        v128.store(to, f32x4.add(upper, f32x4.mul(f32x4.sub(lower, upper), fy)))
        upper = f32x4.add(a, f32x4.mul(right, far))
        lower = f32x4.add(c, f32x4.mul(lowerRight, far))
        v128.store(to, f32x4.add(upper, f32x4.mul(f32x4.sub(lower, upper), fy)), 16)
        a = b
        c = d
      }
    }
    for (; x < x1; x++) this.single(x, y)
  }

  single(x: i32, y: i32): void {
    const to = this.out.colour(x, y)
    v128.store(to, straight(this.source, <f32>x * HALF - <f32>0.25, <f32>y * HALF - <f32>0.25, this.edge))
  }
}
