import { WithAlphaArguments } from '../../build/arguments'


@final
@unmanaged
export class WithAlpha extends WithAlphaArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let from = this.source.colour(x0, y)
    let alpha = this.alpha.single(x0, y)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, from += 16, alpha += 4, to += 16)
      v128.store(to, f32x4.replace_lane(v128.load(from), 3, load<f32>(alpha)))
  }
}
