import { WidenMaxArguments } from '../../build/arguments'


@final
@unmanaged
export class WidenMax extends WidenMaxArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const step = this.step
    let from = source.single(x0, y)
    let to = this.out.single(x0, y)
    const beside = (<usize>step) << 2
    // As far as there is something beside it
    const last = min(x1, source.right - step)
    let x = x0
    for (; x < last - 3; x += 4, from += 16, to += 16)
      v128.store(to, f32x4.pmax(v128.load(from), v128.load(from + beside)))
    for (; x < last; x++, from += 4, to += 4) store<f32>(to, max<f32>(load<f32>(from), load<f32>(from + beside)))
    if (x < x1) memory.copy(to, from, (<usize>(x1 - x)) << 2)
  }
}
