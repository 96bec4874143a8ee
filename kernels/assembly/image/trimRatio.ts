// Tint fills in what shadow takes.
import { TrimRatioArguments } from '../../build/arguments'
import { withAlphaOf } from '../points'


@final @unmanaged
export class TrimRatio extends TrimRatioArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const one = f32x4.splat(1)
    const none = f32x4.splat(0)
    const table = this.table
    let from = this.ratio.colour(x0, y)
    let number = this.numbers.single(x0, y)
    let to = this.out.colour(x0, y)
    for (const end = from + ((<usize>(x1 - x0)) << 4); from < end; from += 16, number += 4, to += 16) {
      const entry = table + ((<usize>load<f32>(number)) << 4)
      const ratio = v128.load(from)
      const dense = f32x4.max(none, f32x4.add(one, f32x4.mul(f32x4.sub(ratio, one), f32x4.splat(load<f32>(entry)))))
      const tint = f32x4(load<f32>(entry, 4), load<f32>(entry, 8), load<f32>(entry, 12), 0)
      const tinted = f32x4.add(dense, f32x4.mul(f32x4.max(none, f32x4.sub(one, dense)), tint))
      v128.store(to, withAlphaOf(tinted, ratio))
    }
  }
}
