import { FromBlocksArguments } from '../../build/arguments'
import * as L from '../layout'


@final
@unmanaged
export class FromBlocks extends FromBlocksArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const at = this.blocks.colour(
        <i32>floor<f32>(<f32>x / <f32>L.BLOCK_SIDE),
        <i32>floor<f32>(<f32>y / <f32>L.BLOCK_SIDE),
      )
      const dx = max(-this.most, min(this.most, <i32>load<f32>(at)))
      const dy = max(-this.most, min(this.most, <i32>load<f32>(at, 4)))
      v128.store(to, v128.load(source.colour(x + dx, y + dy)))
    }
  }
}
