import { SpeckShareArguments } from '../../build/arguments'
import { ONE } from '../constants'
import { isInRow, speckAt, speckCover, speckFrom, speckLeft, speckRight } from '../speck'
import { SPECK_ROWS } from '../layout'

/** So little cover is none. */
const NONE: f32 = 1e-7


@final
@unmanaged
export class SpeckShare extends SpeckShareArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const first = this.out.colour(x0, y)
    const than = this.than
    const covers = this.covers
    // What all leave to be seen of what is behind, and what the nearer ones do
    const open = f32x4.splat(ONE)
    for (let x = x0, to = first; x < x1; x++, to += 16) v128.store(to, open)
    const end = speckFrom(this.rows, this.order, y + SPECK_ROWS)
    for (let at = speckFrom(this.rows, this.order, y); at < end; at += 4) {
      const speck = speckAt(this.specks, at)
      if (!isInRow(speck, y)) continue
      const metres = load<f32>(speck, 44)
      const right = speckRight(speck, x1)
      for (let x = speckLeft(speck, x0); x < right; x++) {
        const cover = speckCover(speck, x, y) * covers
        if (cover <= 0) continue
        const to = first + ((<usize>(x - x0)) << 4)
        store<f32>(to, load<f32>(to) * (ONE - cover))
        const limit = than.there ? load<f32>(than.single(x, y)) : this.distance
        if (metres < limit) store<f32>(to, load<f32>(to, 4) * (ONE - cover), 4)
      }
    }
    for (let x = x0, to = first; x < x1; x++, to += 16) {
      const all = ONE - load<f32>(to)
      const share = all > NONE ? (ONE - load<f32>(to, 4)) / all : ONE
      v128.store(to, f32x4(0, 0, 0, share))
    }
  }
}
