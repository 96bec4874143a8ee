import { ShareOverArguments } from '../../build/arguments'
import { ONE } from '../constants'


@final
@unmanaged
export class ShareOver extends ShareOverArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const opacity = this.opacity
    let backdrop = this.backdrop.single(x0, y)
    let below = this.below.colour(x0, y)
    let source = this.source.single(x0, y)
    let colour = this.colour.colour(x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, backdrop += 4, below += 16, source += 4, colour += 16, to += 4) {
      const behind = load<f32>(backdrop)
      const before = load<f32>(source)
      const cover = max<f32>(0, min<f32>(1, load<f32>(colour, 12) * opacity))
      // What is left to be seen of what is behind; where nothing is, what is before says it, even without cover
      const seen = max<f32>(0, min<f32>(1, load<f32>(below, 12))) * (ONE - cover)
      const share = seen > 0 ? cover / (seen + cover) : 1
      store<f32>(to, share >= 1 ? before : behind + (before - behind) * (load<f32>(below, 12) >= 1 ? cover : share))
    }
  }
}
