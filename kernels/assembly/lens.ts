// A picture bent or straightened by radial distortion, with a sharp filter.
import { ONE, HALF } from './constants'
import { number, pointer, whole } from './words'

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

/**
 * Words: 2 in, 3 out, 4 width in, 5 height in, 6 7 middle of the result, 8 result pixels to a half width, 9 10 middle
 * of the source, 11 source pixels to a half width, 12 k1, 13 k2, 14 whether the result is the bent one (else it is the
 * straight one).
 * Between two pixels the value never leaves the range of those about it, so that bright edges get no dark rim.
 */
export function lensBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const inWidth = whole(args, 4)
  const inHeight = whole(args, 5)
  const source = pointer(args, 2)
  const out = pointer(args, 3)
  const none = i32x4.splat(0)
  const k1 = number(args, 12)
  const k2 = number(args, 13)
  const bent = whole(args, 14)
  for (let y = y0; y < y1; y++) {
    for (let x = 0; x < width; x++) {
      const px = (<f32>x + HALF - number(args, 6)) / number(args, 8)
      const py = (<f32>y + HALF - number(args, 7)) / number(args, 8)
      const r2 = px * px + py * py
      let scale: f32 = ONE + r2 * (k1 + r2 * k2)
      if (bent) {
        // From the bent radius r to the straight one s: s (1 + k1 s2 + k2 s4) = r, by Newton's method
        const r = sqrt<f32>(r2)
        let s = r
        for (let i = 0; i < 8; i++) {
          const s2 = s * s
          const slope = ONE + s2 * (<f32>3 * k1 + s2 * <f32>5 * k2)
          s -= (s * (ONE + s2 * (k1 + s2 * k2)) - r) / (slope > <f32>0.05 ? slope : <f32>0.05)
        }
        scale = r > <f32>1e-6 ? s / r : ONE
      }
      const sx = px * scale * number(args, 11) + number(args, 9) - HALF
      const sy = py * scale * number(args, 11) + number(args, 10) - HALF
      const to = out + ((<usize>(y * width + x)) << 4)
      if (!(sx > -1 && sy > -1 && sx < <f32>inWidth && sy < <f32>inHeight)) {
        v128.store(to, none)
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
        const row = source + ((<usize>(max(0, min(inHeight - 1, upper - 1 + j)) * inWidth)) << 4)
        let line = f32x4.splat(0)
        for (let i = 0; i < 4; i++) {
          const value = v128.load(row + ((<usize>max(0, min(inWidth - 1, left - 1 + i))) << 4))
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
