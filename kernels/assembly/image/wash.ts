import { WashArguments } from '../../build/arguments'


@final
@unmanaged
export class Wash extends WashArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) v128.store(to, this.colour)
  }
}
