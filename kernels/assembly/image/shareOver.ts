import { ShareOverArguments } from '../../build/arguments'


@final
@unmanaged
export class ShareOver extends ShareOverArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const opacity = this.opacity
    let backdrop = this.backdrop.single(x0, y)
    let source = this.source.single(x0, y)
    let colour = this.colour.colour(x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, backdrop += 4, source += 4, colour += 16, to += 4) {
      const below = load<f32>(backdrop)
      const cover = max<f32>(0, min<f32>(1, load<f32>(colour, 12) * opacity))
      store<f32>(to, below + (load<f32>(source) - below) * cover)
    }
  }
}
