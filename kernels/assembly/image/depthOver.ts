import { DepthOverArguments } from '../../build/arguments'
import { ONE } from '../constants'


@final
@unmanaged
export class DepthOver extends DepthOverArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const opacity = this.opacity
    let backdrop = this.backdrop.single(x0, y)
    let below = this.below.colour(x0, y)
    let source = this.source.colour(x0, y)
    let depth = this.depth.single(x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, backdrop += 4, below += 16, source += 16, depth += 4, to += 4) {
      const alpha = load<f32>(source, 12) * opacity
      const most = alpha > 0 && alpha >= (ONE - alpha) * load<f32>(below, 12)
      store<f32>(to, load<f32>(most ? depth : backdrop))
    }
  }
}
