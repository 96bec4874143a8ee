import { SpeckDepthArguments } from '../../build/arguments'
import { isInRow, speckAt, speckCover, speckFrom, speckLeft, speckRight } from '../speck'
import { SPECK_ROWS } from '../layout'


@final
@unmanaged
export class SpeckDepth extends SpeckDepthArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++) store<f32>(to + ((<usize>(x - x0)) << 2), this.nothing)
    const end = speckFrom(this.rows, this.order, y + SPECK_ROWS)
    for (let at = speckFrom(this.rows, this.order, y); at < end; at += 4) {
      const speck = speckAt(this.specks, at)
      if (!isInRow(speck, y)) continue
      const right = speckRight(speck, x1)
      for (let x = speckLeft(speck, x0); x < right; x++) {
        const here = to + ((<usize>(x - x0)) << 2)
        const cover = speckCover(speck, x, y)
        // From far to near: what is nearer is seen where it covers as much as what is behind it is left to be seen
        if (cover > 0 && (cover >= SEEN || load<f32>(here) == this.nothing)) store<f32>(here, load<f32>(speck, 44))
      }
    }
  }
}
/** Half, or more, of a pixel. */
const SEEN: f32 = 0.5
