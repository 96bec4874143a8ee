import { GainOfEachArguments } from '../../build/arguments'
import { RANKS, ranksAt } from '../ranks'


@final @unmanaged
export class GainOfEach extends GainOfEachArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const gains = this.gains
    let ranks = ranksAt(this.coverage, x0, y)
    let from = this.source.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (const end = from + ((<usize>(x1 - x0)) << 4); from < end; from += 16, to += 16, ranks += RANKS) {
      let sum: f32 = 0
      let all: f32 = 0
      for (let rank: usize = 0; rank < RANKS; rank += 8) {
        const weight = load<f32>(ranks + rank, 4)
        if (weight <= 0) break
        sum += weight * load<f32>(gains + ((<usize>(<i32>load<f32>(ranks + rank))) << 2))
        all += weight
      }
      // What is nobody's stays
      v128.store(to, all > 0 ? f32x4.mul(v128.load(from), f32x4.splat(sum / all)) : v128.load(from))
    }
  }
}
