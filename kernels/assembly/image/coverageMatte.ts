import { CoverageMatteArguments } from '../../build/arguments'
import { ONE } from '../constants'
import { RANKS, ranksAt } from '../ranks'


@final @unmanaged
export class CoverageMatte extends CoverageMatteArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const selection = this.selection
    const invert = this.invert
    const relative = this.relative
    let ranks = ranksAt(this.coverage, x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, ranks += RANKS, to += 4) {
      let picked: f32 = 0
      let sum: f32 = 0
      for (let rank: usize = 0; rank < RANKS; rank += 8) {
        const weight = load<f32>(ranks + rank, 4)
        if (weight <= 0) break
        picked += weight * load<f32>(selection + ((<usize>(<i32>load<f32>(ranks + rank))) << 2))
        sum += weight
      }
      let value = relative ? (sum > 0 ? picked / sum : 0) : picked
      value = min<f32>(1, value)
      store<f32>(to, invert ? ONE - value : value)
    }
  }
}
