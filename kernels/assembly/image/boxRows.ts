// Means along rows of a window that slides: sums in double precision, begun anew at every 64th pixel of the frame, so
// that a mean is the same to the bit whatever part of the picture is asked for.
import { BoxRowsArguments } from '../../build/arguments'
import { rounded, second } from './doubles'

const BLOCK: i32 = 64
export const FEW: i32 = 8


@final
@unmanaged
export class BoxRows extends BoxRowsArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const reach = this.reach
    const low = this.low
    const high = this.high
    const side = reach * 2 + 1
    const even = f64x2.splat(1 / <f64>side)
    const row = source.colour(source.left, y)
    const left = source.left
    for (let first = <i32>floor<f32>(<f32>x0 / <f32>BLOCK) * BLOCK; first < x1; first += BLOCK) {
      let begin = max(low, first - reach)
      // A block may begin before the picture does
      let end = max(begin, min(high, first + reach + 1))
      let near = f64x2.splat(0)
      let far = f64x2.splat(0)
      let from = row + ((<usize>(begin - left)) << 4)
      for (let x = begin; x < end;) {
        // A few in single precision, which loses next to nothing and is four times as fast
        const stop = min(end, x + FEW)
        let some = v128.load(from)
        for (x++, from += 16; x < stop; x++, from += 16) some = f32x4.add(some, v128.load(from))
        near = f64x2.add(near, f64x2.promote_low_f32x4(some))
        far = f64x2.add(far, second(some))
      }
      const last = min(x1, first + BLOCK)
      for (let x = first; x < last; x++) {
        // Where the window is whole and stays so, which is nearly everywhere
        const whole = min(last, high - reach - 1) - x
        if (x >= x0 && end - begin == side && begin == x - reach && whole > 0) {
          let old = row + ((<usize>(begin - left)) << 4)
          let next = row + ((<usize>(end - left)) << 4)
          const stop = old + ((<usize>whole) << 4)
          for (let to = this.out.colour(x, y); old < stop; old += 16, next += 16, to += 16) {
            v128.store(to, rounded(f64x2.mul(near, even), f64x2.mul(far, even)))
            const comes = v128.load(next)
            const goes = v128.load(old)
            near = f64x2.add(near, f64x2.sub(f64x2.promote_low_f32x4(comes), f64x2.promote_low_f32x4(goes)))
            far = f64x2.add(far, f64x2.sub(second(comes), second(goes)))
          }
          x += whole
          begin += whole
          end += whole
          if (x >= last) break
        }
        if (x >= x0) {
          const scale = f64x2.splat(1 / <f64>max(1, end - begin))
          v128.store(this.out.colour(x, y), rounded(f64x2.mul(near, scale), f64x2.mul(far, scale)))
        }
        let comes = f32x4.splat(0)
        let goes = comes
        if (end < high && x + reach + 1 >= end) comes = v128.load(row + ((<usize>(end++ - left)) << 4))
        if (x - reach >= low) goes = v128.load(row + ((<usize>(begin++ - left)) << 4))
        near = f64x2.add(near, f64x2.sub(f64x2.promote_low_f32x4(comes), f64x2.promote_low_f32x4(goes)))
        far = f64x2.add(far, f64x2.sub(second(comes), second(goes)))
      }
    }
  }
}
