import { MirroredSingleArguments } from '../../build/arguments'
import { mirrorRow } from './mirrored'


@final
@unmanaged
export class MirroredSingle extends MirroredSingleArguments {
  row(x0: i32, x1: i32, y: i32): void {
    mirrorRow(this.source, this.out, x0, x1, y, 2)
  }
}
