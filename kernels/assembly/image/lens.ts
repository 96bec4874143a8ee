// A picture bent or straightened by radial distortion, with a sharp filter. Between two pixels the value never leaves
// the range of those about it, so that bright edges get no dark rim.
import { LensArguments } from '../../build/arguments'
import { bendAt } from '../bend'
import { HALF, ONE } from '../constants'

/**
 * Weights of the four taps about a place between the second and the third: cubic convolution with a = -1/2 (R. G. Keys
 * 1981).
 */
@inline
function tap(k: i32, t: f32): f32 {
  if (k == 0) return t * (t * (ONE - t * HALF) - HALF)
  if (k == 1) return ONE + t * t * (t * <f32>1.5 - <f32>2.5)
  if (k == 2) return t * (HALF + t * (<f32>2 - t * <f32>1.5))
  return t * t * (t * HALF - HALF)
}


@final @unmanaged
export class Lens extends LensArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const k1 = this.k1
    const k2 = this.k2
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const px = (<f32>x + HALF - this.middleX) / this.half
      const py = (<f32>y + HALF - this.middleY) / this.half
      const scale = bendAt(px, py, k1, k2, this.bent)
      const sx = px * scale * this.sourceHalf + this.sourceX - HALF
      const sy = py * scale * this.sourceHalf + this.sourceY - HALF
      if (!(
        sx > <f32>(source.left - 1) &&
        sy > <f32>(source.top - 1) &&
        sx < <f32>source.right &&
        sy < <f32>source.bottom
      )) {
        v128.store(to, i32x4.splat(0))
        continue
      }
      const left = <i32>floor<f32>(sx)
      const upper = <i32>floor<f32>(sy)
      const tx = sx - <f32>left
      const ty = sy - <f32>upper
      let sum = f32x4.splat(0)
      let low = f32x4.splat(1e30)
      let high = f32x4.splat(-1e30)
      for (let j = 0; j < 4; j++) {
        const row = max(source.top, min(source.bottom - 1, upper - 1 + j))
        let line = f32x4.splat(0)
        for (let i = 0; i < 4; i++) {
          const value = v128.load(source.colour(max(source.left, min(source.right - 1, left - 1 + i)), row))
          line = f32x4.add(line, f32x4.mul(value, f32x4.splat(tap(i, tx))))
          if ((i == 1 || i == 2) && (j == 1 || j == 2)) {
            low = f32x4.min(low, value)
            high = f32x4.max(high, value)
          }
        }
        sum = f32x4.add(sum, f32x4.mul(line, f32x4.splat(tap(j, ty))))
      }
      // A little over the four about it keeps fine detail crisp; more would ring
      const room = f32x4.mul(f32x4.sub(high, low), f32x4.splat(0.15))
      v128.store(to, f32x4.max(f32x4.sub(low, room), f32x4.min(f32x4.add(high, room), sum)))
    }
  }
}
