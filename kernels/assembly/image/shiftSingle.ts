import { ShiftSingleArguments } from '../../build/arguments'


@final @unmanaged
export class ShiftSingle extends ShiftSingleArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const from = y + this.dy
    const out = this.out.single(x0, y)
    const first = max(x0, source.left - this.dx)
    const last = min(x1, source.right - this.dx)
    if (from < source.top || from >= source.bottom || first >= last) {
      memory.fill(out, 0, (<usize>(x1 - x0)) << 2)
      return
    }
    memory.fill(out, 0, (<usize>(first - x0)) << 2)
    memory.copy(this.out.single(first, y), source.single(first + this.dx, from), (<usize>(last - first)) << 2)
    memory.fill(this.out.single(last, y), 0, (<usize>(x1 - last)) << 2)
  }
}
