// How much of what covers a pixel lies before a distance, where it is as thick as it is. Of what takes 1 - (1 - a) of the
// light over its whole depth, the part up to a share f of that takes 1 - (1 - a)^f (Beer and Lambert).
import { ThickShareArguments } from '../../build/arguments'
import { ONE } from '../constants'
import { powerOfTwo } from '../exponent'

/** So much cover takes next to nothing away: shares are even. */
const THIN: f32 = 1e-4
/** What covers more than this is taken for as much. */
const DENSE: f32 = 0.999999


@final
@unmanaged
export class ThickShare extends ThickShareArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const than = this.than
    let at: usize = than.there ? than.single(x0, y) : 0
    let from = this.source.colour(x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, from += 16, to += 4) {
      const metres = at ? load<f32>(at) : this.distance
      if (at) at += 4
      const part = max<f32>(0, min<f32>(1, (metres - this.near) * this.scale))
      const cover = min<f32>(DENSE, load<f32>(from, 12))
      store<f32>(
        to,
        part <= 0 || part >= 1 || cover < THIN ? part : (ONE - powerOfTwo(part * Mathf.log2(ONE - cover))) / cover,
      )
    }
  }
}
