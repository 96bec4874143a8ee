// Grey dilation (or erosion) by a disc. What a pixel at a distance gives fades out over the last pixel of the reach, so
// that an edge moves by fractions of a pixel too. One place of the disc after another, four pixels at once.
import { GrowMatteArguments } from '../../build/arguments'
import { ONE } from '../constants'


@final
@unmanaged
export class GrowMatte extends GrowMatteArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const radius = this.radius
    const reach = <i32>ceil<f32>(radius)
    const shrink = this.shrink
    const out = this.out.single(x0, y)
    memory.fill(out, 0, (<usize>(x1 - x0)) << 2)
    const high = max(source.top, y - reach)
    const low = min(source.bottom - 1, y + reach)
    for (let j = high; j <= low; j++) {
      const dy = <f32>(j - y)
      for (let dx = -reach; dx <= reach; dx++) {
        const share = min<f32>(1, radius + ONE - sqrt<f32>(<f32>(dx * dx) + dy * dy))
        if (share <= 0) continue
        let x = max(x0, source.left - dx)
        const last = min(x1, source.right - dx)
        if (x >= last) continue
        let from = source.single(x + dx, j)
        let to = out + ((<usize>(x - x0)) << 2)
        const shares = f32x4.splat(share)
        const all = f32x4.splat(1)
        for (; x < last - 3; x += 4, from += 16, to += 16) {
          const value = v128.load(from)
          const there = shrink ? f32x4.sub(all, value) : value
          v128.store(to, f32x4.pmax(v128.load(to), f32x4.mul(there, shares)))
        }
        for (; x < last; x++, from += 4, to += 4) {
          const value = load<f32>(from)
          store<f32>(to, max<f32>(load<f32>(to), (shrink ? ONE - value : value) * share))
        }
      }
    }
    if (!shrink) return
    for (let x = x0, to = out; x < x1; x++, to += 4) store<f32>(to, ONE - load<f32>(to))
  }
}
