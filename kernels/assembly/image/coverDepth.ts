// How far away what covers a pixel most is, up to its last trace: a pixel that it covers in part only may be told the
// distance of what is behind.
import { CoverDepthArguments } from '../../build/arguments'
import { ALONE, depthNear, ranksAt } from '../ranks'


@final @unmanaged
export class CoverDepth extends CoverDepthArguments {
  row(x0: i32, x1: i32, y: i32): void {
    for (let x = x0; x < x1; x++) {
      const ranks = ranksAt(this.coverage, x, y)
      const weight = load<f32>(ranks, 4)
      const own = load<f32>(this.depth.single(x, y))
      // What shows alone stands where its pixel says
      const partly = weight > 0 && weight < ALONE
      store<f32>(this.out.single(x, y), partly ? depthNear(this.coverage, this.depth, x, y, load<f32>(ranks)) : own)
    }
  }
}
