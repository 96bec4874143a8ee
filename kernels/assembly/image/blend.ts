import { BlendArguments } from '../../build/arguments'
import { blendRow } from '../blend'


@final @unmanaged
export class Blend extends BlendArguments {
  row(x0: i32, x1: i32, y: i32): void {
    blendRow(
      this.backdrop.colour(x0, y),
      this.source.colour(x0, y),
      this.out.colour(x0, y),
      x1 - x0,
      this.mode,
      this.opacity,
      this.matte.there ? this.matte.single(x0, y) : 0,
    )
  }
}
