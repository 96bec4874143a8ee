import { MultiplyRatioArguments } from '../../build/arguments'
import { withAlphaOf } from '../points'


@final @unmanaged
export class MultiplyRatio extends MultiplyRatioArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const one = f32x4.splat(1)
    const strength = f32x4.splat(this.strength)
    let from = this.source.colour(x0, y)
    let ratio = this.ratio.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (const end = from + ((<usize>(x1 - x0)) << 4); from < end; from += 16, ratio += 16, to += 16) {
      const value = v128.load(from)
      const factor = f32x4.add(one, f32x4.mul(f32x4.sub(v128.load(ratio), one), strength))
      v128.store(to, withAlphaOf(f32x4.mul(value, factor), value))
    }
  }
}
