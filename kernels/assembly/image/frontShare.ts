// How much of what covers a pixel is nearer than a cut, or than what else stands at the pixel. A pixel on the border of two objects belongs to both: each
// counts by its coverage, and by where that object is next to the pixel.
import { FrontShareArguments } from '../../build/arguments'
import { depthNear, RANKS, ranksAt } from '../ranks'


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

  @inline
  chosen(object: f32): bool {
    return this.isAhead != 0 && load<f32>(this.ahead + ((<usize>(<i32>object)) << 2)) > 0
  }

  row(x0: i32, x1: i32, y: i32): void {
    let distance = this.distance
    for (let x = x0; x < x1; x++) {
      if (this.than.there) distance = load<f32>(this.than.single(x, y))
      const ranks = ranksAt(this.coverage, x, y)
      const own: f32 = this.chosen(load<f32>(ranks)) || load<f32>(this.depth.single(x, y)) < distance ? 1 : 0
      let share: f32 = own
      // Several objects: each where it is; one object, or none known: by the pixel's depth
      if (load<f32>(ranks + 12) > 0) {
        let front: f32 = 0
        for (let rank: usize = 0; rank < RANKS; rank += 8) {
          const weight = load<f32>(ranks + rank, 4)
          if (weight <= 0) break
          const object = load<f32>(ranks + rank)
          if (this.chosen(object) || depthNear(this.coverage, this.depth, x, y, object) < distance) front += weight
        }
        share = min<f32>(1, front / sumOf(ranks))
      }
      store<f32>(this.out.single(x, y), share)
    }
  }
}
