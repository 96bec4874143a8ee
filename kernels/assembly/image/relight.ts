import { RelightArguments } from '../../build/arguments'
import { withAlphaOf } from '../points'


@final @unmanaged
export class Relight extends RelightArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const one = f32x4.splat(1)
    let from = this.source.colour(x0, y)
    let before = this.before.colour(x0, y)
    let after = this.after.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (const end = from + ((<usize>(x1 - x0)) << 4); from < end; from += 16, before += 16, after += 16, to += 16) {
      const value = v128.load(from)
      const was = v128.load(before)
      // Where the groups are dark it stays
      const ratio = v128.bitselect(f32x4.div(v128.load(after), was), one, f32x4.gt(was, f32x4.splat(1e-12)))
      v128.store(to, withAlphaOf(f32x4.mul(value, ratio), value))
    }
  }
}
