import { ShareOfArguments } from '../../build/arguments'


@final
@unmanaged
export class ShareOf extends ShareOfArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let from = this.source.colour(x0, y) + ((<usize>this.which) << 2)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, from += 16, to += 4) {
      const value = load<f32>(from)
      // Of what is no number both comparisons fail
      store<f32>(to, value > 0 ? (value < 1 ? value : 1) : 0)
    }
  }
}
