import { AlongArguments } from '../../build/arguments'

/** Bytes of a tap: two whole numbers, four weights, and how much of red, green and blue. */
const TAP_BYTES: usize = 36


@final
@unmanaged
export class Along extends AlongArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const begin = this.out.colour(x0, y)
    const end = begin + ((<usize>(x1 - x0)) << 4)
    memory.fill(begin, 0, end - begin)
    const below = (<usize>source.stride) << 4
    // Tap by tap over the row, which stays in the cache: what a tap lies between is the same for all of it
    for (let i = 0, tap = this.taps; i < this.count; i++, tap += TAP_BYTES) {
      const across = <i32>load<f32>(tap)
      const down = <i32>load<f32>(tap, 4)
      let shade = f32x4.splat(1)
      shade = f32x4.replace_lane(shade, 0, load<f32>(tap, 24))
      shade = f32x4.replace_lane(shade, 1, load<f32>(tap, 28))
      shade = f32x4.replace_lane(shade, 2, load<f32>(tap, 32))
      const a = f32x4.mul(v128.load32_splat(tap, 8), shade)
      const b = f32x4.mul(v128.load32_splat(tap, 12), shade)
      const c = f32x4.mul(v128.load32_splat(tap, 16), shade)
      const d = f32x4.mul(v128.load32_splat(tap, 20), shade)
      let from = source.colour(x0 + across, y + down)
      const isWhole = load<f32>(tap, 12) == 0 && load<f32>(tap, 16) == 0 && load<f32>(tap, 20) == 0
      if (isWhole) {
        for (let to = begin; to < end; to += 16, from += 16)
          v128.store(to, f32x4.add(v128.load(to), f32x4.mul(v128.load(from), a)))
        continue
      }
      let left = v128.load(from)
      let leftBelow = v128.load(from + below)
      for (let to = begin; to < end; to += 16, from += 16) {
        const right = v128.load(from, 16)
        const rightBelow = v128.load(from + below, 16)
        const upper = f32x4.add(f32x4.mul(left, a), f32x4.mul(right, b))
        const lower = f32x4.add(f32x4.mul(leftBelow, c), f32x4.mul(rightBelow, d))
        v128.store(to, f32x4.add(v128.load(to), f32x4.add(upper, lower)))
        left = right
        leftBelow = rightBelow
      }
    }
  }
}
