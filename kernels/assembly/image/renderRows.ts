import { RenderRowsArguments } from '../../build/arguments'
import { renderBand } from '../integrator'


@final @unmanaged
export class RenderRows extends RenderRowsArguments {
  block(_x0: i32, y0: i32, _x1: i32, y1: i32): void {
    for (let y = y0; y < y1; y++) renderBand(this.record, y)
  }
}
