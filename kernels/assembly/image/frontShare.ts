// How much of what covers a pixel is nearer than a cut. A pixel on the border of two objects belongs to both: each
// counts by its coverage, and by where that object is next to the pixel.
import { FrontShareArguments } from '../../build/arguments'
import { CUT_REACH } from '../layout'
import { RANKS, ranksAt } from '../ranks'

// A pixel shows one object alone from this share on
const ALONE: f32 = 0.98


@inline
function sumOf(ranks: usize): f32 {
  let sum: f32 = 0
  for (let rank: usize = 0; rank < RANKS; rank += 8) {
    const weight = load<f32>(ranks + rank, 4)
    if (weight <= 0) break
    sum += weight
  }
  return sum
}


@final @unmanaged
export class FrontShare extends FrontShareArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const distance = this.distance
    for (let x = x0; x < x1; x++) {
      const ranks = ranksAt(this.coverage, x, y)
      const own: f32 = load<f32>(this.depth.single(x, y)) < distance ? 1 : 0
      let share: f32 = own
      // Several objects: each where it is; one object, or none known: by the pixel's depth
      if (load<f32>(ranks + 12) > 0) {
        let front: f32 = 0
        for (let rank: usize = 0; rank < RANKS; rank += 8) {
          const weight = load<f32>(ranks + rank, 4)
          if (weight <= 0) break
          if (this.depthNear(x, y, load<f32>(ranks + rank)) < distance) front += weight
        }
        share = min<f32>(1, front / sumOf(ranks))
      }
      store<f32>(this.out.single(x, y), share)
    }
  }

  /** Depth of an object near a pixel: of the closest pixel that shows it alone; the pixel's own where there is none. */
  depthNear(x: i32, y: i32, object: f32): f32 {
    const all = this.coverage
    for (let ring = 1; ring <= CUT_REACH; ring++) {
      for (let dy = -ring; dy <= ring; dy++) {
        const qy = y + dy
        if (qy < all.top || qy >= all.bottom) continue
        const step = dy == -ring || dy == ring ? 1 : ring * 2
        for (let dx = -ring; dx <= ring; dx += step) {
          const qx = x + dx
          if (qx < all.left || qx >= all.right) continue
          const ranks = ranksAt(all, qx, qy)
          if (load<f32>(ranks) == object && load<f32>(ranks, 4) >= ALONE) return load<f32>(this.depth.single(qx, qy))
        }
      }
    }
    return load<f32>(this.depth.single(x, y))
  }
}
