// Means of what is near and alike (C. Tomasi, R. Manduchi, "Bilateral Filtering for Gray and Color Images", ICCV 1998).
import { BilateralArguments } from '../../build/arguments'
import { powersOfTwo } from '../exponent'
import { Raster } from '../raster'


@inline
function squares(pixel: v128, middle: v128): v128 {
  const d = f32x4.sub(pixel, middle)
  return f32x4.mul(d, d)
}


@final
@unmanaged
export class Bilateral extends BilateralArguments {
  row(x0: i32, x1: i32, y: i32): void {
    for (let x = x0; x < x1; x += 4) this.four(x, min(4, x1 - x), y)
  }

  /** Four pixels beside each other, or as many of them as there are. */
  four(x: i32, count: i32, y: i32): void {
    const source: Raster = this.source
    const radius = this.radius
    const alike = f32x4.splat(this.alike)
    const straight: Raster = this.straight
    const here = straight.colour(x, y)
    const m0 = v128.load(here)
    const m1 = v128.load(here, 16)
    const m2 = v128.load(here, 32)
    const m3 = v128.load(here, 48)
    let s0 = f32x4.splat(0)
    let s1 = s0
    let s2 = s0
    let s3 = s0
    let weights = s0
    for (let dy = -radius; dy <= radius; dy++) {
      const wide = <i32>floor<f32>(sqrt<f32>(<f32>(radius * radius - dy * dy)))
      let from = source.colour(x - wide, y + dy)
      let divided = straight.colour(x - wide, y + dy)
      for (let dx = -wide; dx <= wide; dx++, from += 16, divided += 16) {
        const a = squares(v128.load(divided), m0)
        const b = squares(v128.load(divided, 16), m1)
        const c = squares(v128.load(divided, 32), m2)
        const d = squares(v128.load(divided, 48), m3)
        // Rows to columns: sums over red, green and blue of all four
        const ab = i32x4.shuffle(a, b, 0, 4, 1, 5)
        const cd = i32x4.shuffle(c, d, 0, 4, 1, 5)
        const reds = i32x4.shuffle(ab, cd, 0, 1, 4, 5)
        const greens = i32x4.shuffle(ab, cd, 2, 3, 6, 7)
        const blues = i32x4.shuffle(i32x4.shuffle(a, b, 2, 6, 2, 6), i32x4.shuffle(c, d, 2, 6, 2, 6), 0, 1, 4, 5)
        const distance = f32x4.add(f32x4.add(reds, greens), blues)
        const near = v128.load32_splat(this.spatial + ((<usize>(dx * dx + dy * dy)) << 2))
        const weight = f32x4.mul(near, powersOfTwo(f32x4.mul(distance, alike)))
        weights = f32x4.add(weights, weight)
        s0 = f32x4.add(s0, f32x4.mul(v128.load(from), i32x4.shuffle(weight, weight, 0, 0, 0, 0)))
        s1 = f32x4.add(s1, f32x4.mul(v128.load(from, 16), i32x4.shuffle(weight, weight, 1, 1, 1, 1)))
        s2 = f32x4.add(s2, f32x4.mul(v128.load(from, 32), i32x4.shuffle(weight, weight, 2, 2, 2, 2)))
        s3 = f32x4.add(s3, f32x4.mul(v128.load(from, 48), i32x4.shuffle(weight, weight, 3, 3, 3, 3)))
      }
    }
    const to = this.out.colour(x, y)
    v128.store(to, f32x4.div(s0, i32x4.shuffle(weights, weights, 0, 0, 0, 0)))
    if (count > 1) v128.store(to, f32x4.div(s1, i32x4.shuffle(weights, weights, 1, 1, 1, 1)), 16)
    if (count > 2) v128.store(to, f32x4.div(s2, i32x4.shuffle(weights, weights, 2, 2, 2, 2)), 32)
    if (count > 3) v128.store(to, f32x4.div(s3, i32x4.shuffle(weights, weights, 3, 3, 3, 3)), 48)
  }
}
