// Grey dilation (or erosion) by a disc. What a pixel at a distance gives fades out over the last pixel of the reach, so
// that an edge moves by fractions of a pixel too.
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
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, to += 4) {
      const own = load<f32>(source.single(x, y))
      let most = shrink ? ONE - own : own
      const high = max(source.top, y - reach)
      const low = min(source.bottom - 1, y + reach)
      for (let j = high; j <= low && most < 1; j++) {
        const dy = <f32>(j - y)
        const wide = <i32>floor<f32>(sqrt<f32>(max<f32>(0, (radius + ONE) * (radius + ONE) - dy * dy)))
        const left = max(source.left, x - wide)
        const right = min(source.right - 1, x + wide)
        let from = source.single(left, j)
        for (let i = left; i <= right; i++, from += 4) {
          const value = load<f32>(from)
          const there = shrink ? ONE - value : value
          if (there <= most) continue
          const dx = <f32>(i - x)
          const share = min<f32>(1, max<f32>(0, radius + ONE - sqrt<f32>(dx * dx + dy * dy)))
          most = max<f32>(most, there * share)
        }
      }
      store<f32>(to, shrink ? ONE - most : most)
    }
  }
}
