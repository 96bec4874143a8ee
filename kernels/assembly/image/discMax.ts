// The greatest value within a disc: row by row of it, each of two spans that overlap, whose greatest values are known for
// every length that is a power of two (the sparse table of range queries).
import { DiscMaxArguments } from '../../build/arguments'
import { Raster } from '../raster'


@final
@unmanaged
export class DiscMax extends DiscMaxArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const out = this.out.single(x0, y)
    memory.fill(out, 0, (<usize>(x1 - x0)) << 2)
    const radius = this.radius
    const reach = <i32>radius
    for (let dy = -reach; dy <= reach; dy++) {
      const wide = <i32>floor<f32>(sqrt<f32>(max<f32>(0, radius * radius - <f32>(dy * dy))))
      const level = 31 - clz(2 * wide + 1)
      const spans = this.spans(level)
      if (y + dy < spans.top || y + dy >= spans.bottom) continue
      let a = spans.single(x0 - wide, y + dy)
      let b = spans.single(x0 + wide + 1 - (1 << level), y + dy)
      let to = out
      let x = x0
      for (; x < x1 - 3; x += 4, a += 16, b += 16, to += 16)
        v128.store(to, f32x4.pmax(v128.load(to), f32x4.pmax(v128.load(a), v128.load(b))))
      for (; x < x1; x++, a += 4, b += 4, to += 4)
        store<f32>(to, max<f32>(load<f32>(to), max<f32>(load<f32>(a), load<f32>(b))))
    }
  }


  @inline
  spans(level: i32): Raster {
    if (level == 0) return this.one
    if (level == 1) return this.two
    if (level == 2) return this.four
    if (level == 3) return this.eight
    if (level == 4) return this.sixteen
    if (level == 5) return this.thirtyTwo
    if (level == 6) return this.sixtyFour
    if (level == 7) return this.hundreds
    if (level == 8) return this.halfThousand
    return this.thousand
  }
}
