// What is said of the things that cover a pixel, each as it is said beside the pixel where it stands alone.
import { ShareByCoverArguments } from '../../build/arguments'
import { ALONE, depthNear, RANKS, ranksAt } from '../ranks'


@final
@unmanaged
export class ShareByCover extends ShareByCoverArguments {
  row(x0: i32, x1: i32, y: i32): void {
    for (let x = x0; x < x1; x++) {
      const ranks = ranksAt(this.coverage, x, y)
      let value = load<f32>(this.share.single(x, y))
      // One thing alone, or what else is there is nothing
      if (load<f32>(ranks + 12) > 0 && load<f32>(ranks, 4) < ALONE) {
        let sum: f32 = 0
        let weights: f32 = 0
        for (let rank: usize = 0; rank < RANKS; rank += 8) {
          const weight = load<f32>(ranks + rank, 4)
          if (weight <= 0) break
          sum += weight * depthNear(this.coverage, this.share, x, y, load<f32>(ranks + rank))
          weights += weight
        }
        value = sum / weights
      }
      store<f32>(this.out.single(x, y), value)
    }
  }
}
