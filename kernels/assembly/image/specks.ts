import { SpecksArguments } from '../../build/arguments'
import { ONE } from '../constants'
import { isInRow, speckAt, speckCover, speckFrom, speckLeft, speckRight } from '../speck'
import { SPECK_ROWS } from '../layout'


@final
@unmanaged
export class Specks extends SpecksArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const out = this.out
    const covers = this.covers
    const first = out.colour(x0, y)
    memory.fill(first, 0, (<usize>(x1 - x0)) << 4)
    const end = speckFrom(this.rows, this.order, y + SPECK_ROWS)
    for (let at = speckFrom(this.rows, this.order, y); at < end; at += 4) {
      const speck = speckAt(this.specks, at)
      if (!isInRow(speck, y)) continue
      // Its light and, as the fourth, what it hides
      const colour = f32x4.replace_lane(v128.load(speck, 32), 3, covers)
      const right = speckRight(speck, x1)
      for (let x = speckLeft(speck, x0); x < right; x++) {
        const cover = speckCover(speck, x, y)
        if (cover <= 0) continue
        const to = first + ((<usize>(x - x0)) << 4)
        v128.store(
          to,
          f32x4.add(f32x4.mul(colour, f32x4.splat(cover)), f32x4.mul(v128.load(to), f32x4.splat(ONE - cover * covers))),
        )
      }
    }
  }
}
