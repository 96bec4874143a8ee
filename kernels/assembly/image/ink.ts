import { InkArguments } from '../../build/arguments'


@final @unmanaged
export class Ink extends InkArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const bite = this.bite
    const strength = this.strength
    const ink = this.colour
    let from = this.source.colour(x0, y)
    let line = this.line.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (const end = from + ((<usize>(x1 - x0)) << 4); from < end; from += 16, line += 16, to += 16) {
      // A line that was treated may be more than whole
      const share = max<f32>(0, min<f32>(1, load<f32>(line)))
      const laid = share * strength
      const left = f32x4.mul(v128.load(from), f32x4.splat((<f32>1 - bite * share) * (<f32>1 - laid)))
      v128.store(to, f32x4.add(left, f32x4.mul(ink, f32x4.splat(laid))))
    }
  }
}
