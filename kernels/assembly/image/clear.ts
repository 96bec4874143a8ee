import { ClearArguments } from '../../build/arguments'


@final @unmanaged
export class Clear extends ClearArguments {
  row(x0: i32, x1: i32, y: i32): void {
    memory.fill(this.out.colour(x0, y), 0, (<usize>(x1 - x0)) << 4)
  }
}
