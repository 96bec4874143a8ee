// The code is the greatest whose threshold is not above the value: exactly the rounded curve. The guess is at most two
// below it (core/colour/view.ts sees to that).
import { DisplayArguments } from '../../build/arguments'
import { luminance } from '../points'


@inline
function code(value: f32, thresholds: usize, guess: usize): u32 {
  const found = <u32>load<u8>(guess + <usize>(reinterpret<u32>(value) >> 16))
  const next = thresholds + ((<usize>found) << 2)
  return found + <u32>(value >= load<f32>(next, 4)) + <u32>(value >= load<f32>(next, 8))
}


@final @unmanaged
export class Display extends DisplayArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const thresholds = this.thresholds
    const guess = this.guess
    const channel = this.channel
    const gain = f32x4.splat(this.gain)
    const zero = f32x4.splat(0)
    let from = this.source.colour(x0, y)
    let to = this.out.single(x0, y)
    for (const end = from + ((<usize>(x1 - x0)) << 4); from < end; from += 16, to += 4) {
      let value = v128.load(from)
      if (channel == 4) value = f32x4.splat(f32x4.extract_lane(value, 3))
      else {
        value = f32x4.mul(value, gain)
        if (channel == 1) value = f32x4.splat(f32x4.extract_lane(value, 0))
        else if (channel == 2) value = f32x4.splat(f32x4.extract_lane(value, 1))
        else if (channel == 3) value = f32x4.splat(f32x4.extract_lane(value, 2))
        else if (channel == 5) value = luminance(value)
      }
      value = f32x4.pmax(zero, value) // NaN becomes 0
      const r = code(f32x4.extract_lane(value, 0), thresholds, guess)
      const g = code(f32x4.extract_lane(value, 1), thresholds, guess)
      const b = code(f32x4.extract_lane(value, 2), thresholds, guess)
      store<u32>(to, r | (g << 8) | (b << 16) | 0xff000000)
    }
  }
}
