import { GreyArguments } from '../../build/arguments'


@final @unmanaged
export class Grey extends GreyArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let from = this.source.single(x0, y)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, from += 4, to += 16) v128.store(to, f32x4.replace_lane(v128.load32_splat(from), 3, 1))
  }
}
