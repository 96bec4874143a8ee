import { MixArguments } from '../../build/arguments'


@final
@unmanaged
export class Mix extends MixArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let share = f32x4.splat(this.share)
    let matte: usize = this.matte.there ? this.matte.single(x0, y) : 0
    let first = this.first.colour(x0, y)
    let second = this.second.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (const end = first + ((<usize>(x1 - x0)) << 4); first < end; first += 16, second += 16, to += 16) {
      if (matte) {
        share = f32x4.splat(this.share * load<f32>(matte))
        matte += 4
      }
      const value = v128.load(first)
      v128.store(to, f32x4.add(value, f32x4.mul(f32x4.sub(v128.load(second), value), share)))
    }
  }
}
