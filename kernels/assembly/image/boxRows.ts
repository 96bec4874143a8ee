// Means along rows of a window that slides: sums in double precision, begun anew at every 64th pixel of the frame, so
// that a mean is the same to the bit whatever part of the picture is asked for.
import { BoxRowsArguments } from '../../build/arguments'

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
        far = f64x2.add(far, f64x2.promote_low_f32x4(i32x4.shuffle(some, some, 2, 3, 2, 3)))
      }
      const last = min(x1, first + BLOCK)
      for (let x = first; x < last; x++) {
        if (x >= x0) {
          const scale = f64x2.splat(1 / <f64>max(1, end - begin))
          v128.store(
            this.out.colour(x, y),
            i32x4.shuffle(
              f32x4.demote_f64x2_zero(f64x2.mul(near, scale)),
              f32x4.demote_f64x2_zero(f64x2.mul(far, scale)),
              0,
              1,
              4,
              5,
            ),
          )
        }
        if (end < high && x + reach + 1 >= end) {
          const pixel = v128.load(row + ((<usize>(end - left)) << 4))
          near = f64x2.add(near, f64x2.promote_low_f32x4(pixel))
          far = f64x2.add(far, f64x2.promote_low_f32x4(i32x4.shuffle(pixel, pixel, 2, 3, 2, 3)))
          end++
        }
        if (x - reach >= low) {
          const pixel = v128.load(row + ((<usize>(begin - left)) << 4))
          near = f64x2.sub(near, f64x2.promote_low_f32x4(pixel))
          far = f64x2.sub(far, f64x2.promote_low_f32x4(i32x4.shuffle(pixel, pixel, 2, 3, 2, 3)))
          begin++
        }
      }
    }
  }
}
