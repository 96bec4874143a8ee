import { BlurColumnsArguments } from '../../build/arguments'
import { mirrored } from '../mirror'


@final
@unmanaged
export class BlurColumns extends BlurColumnsArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const weights = this.weights
    // Nothing beyond its sides
    const first = max(x0, source.left)
    const last = max(first, min(x1, source.right))
    const out = this.out
    memory.fill(out.colour(x0, y), 0, (<usize>(x1 - x0)) << 4)
    if (first >= x1 || last <= first) return
    const bytes = (<usize>(last - first)) << 4
    const start = out.colour(first, y)
    for (let i = 0; i <= this.reach; i++) {
      const above = this.lineOf(first, y - i)
      const below = this.lineOf(first, y + i)
      const weight = v128.load32_splat(weights + ((<usize>i) << 2))
      for (let at: usize = 0; at < bytes; at += 16) {
        let value = i32x4.splat(0)
        if (above) value = v128.load(above + at)
        if (i && below) value = f32x4.add(value, v128.load(below + at))
        v128.store(start + at, f32x4.add(v128.load(start + at), f32x4.mul(value, weight)))
      }
    }
  }

  /** Where a line begins; 0 for one that is empty. */
  @inline
  lineOf(x: i32, y: i32): usize {
    const source = this.source
    if (this.edge) y = mirrored(y, source.top, source.bottom)
    else if (y < source.top || y >= source.bottom) return 0
    return source.colour(x, y)
  }
}
