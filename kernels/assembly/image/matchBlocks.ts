// Where parts of a picture are in another, square by square: the way for which a square and what is round it differ least,
// of those about what a smaller picture says. Of equals the nearest counts: where all is even it stays.
import { MatchBlocksArguments } from '../../build/arguments'
import * as L from '../layout'


@final
@unmanaged
export class MatchBlocks extends MatchBlocksArguments {
  row(x0: i32, x1: i32, y: i32): void {
    for (let x = x0; x < x1; x++) this.block(x, y)
  }

  block(x: i32, y: i32): void {
    const left = x * L.BLOCK_SIDE - L.BLOCK_ROUND
    const top = y * L.BLOCK_SIDE - L.BLOCK_ROUND
    const start = this.start
    let bestX = 0
    let bestY = 0
    let best = this.differs(left, top, 0, 0, Infinity)
    if (start.there) {
      // What the larger square says in which this one lies, and those beside it
      let fromX = 0
      let fromY = 0
      for (let j = -1; j <= 1; j++)
        for (let i = -1; i <= 1; i++) {
          const at = start.colour((x >> 1) + i, (y >> 1) + j)
          const dx = this.held(<i32>load<f32>(at) * 2)
          const dy = this.held(<i32>load<f32>(at, 4) * 2)
          const own = this.differs(left, top, dx, dy, best)
          if (own < best) {
            best = own
            fromX = dx
            fromY = dy
          }
        }
      bestX = fromX
      bestY = fromY
    }
    const middleX = bestX
    const middleY = bestY
    for (let j = -this.search; j <= this.search; j++)
      for (let i = -this.search; i <= this.search; i++) {
        const dx = this.held(middleX + i)
        const dy = this.held(middleY + j)
        const own = this.differs(left, top, dx, dy, best)
        if (own < best) {
          best = own
          bestX = dx
          bestY = dy
        }
      }
    v128.store(this.out.colour(x, y), f32x4(<f32>bestX, <f32>bestY, best, 1))
  }


  @inline
  held(way: i32): i32 {
    return max(-this.most, min(this.most, way))
  }

  /** Sum of what every second row differs; more than the least so far is as good as endless. */
  differs(left: i32, top: i32, dx: i32, dy: i32, least: f32): f32 {
    const source = this.source
    const other = this.other
    const side = L.BLOCK_SIDE + 2 * L.BLOCK_ROUND
    let total = this.stay * sqrt<f32>(<f32>(dx * dx + dy * dy))
    for (let k = 0; k < side; k += 2) {
      let a = source.colour(left, top + k)
      let b = other.colour(left + dx, top + k + dy)
      let sum = f32x4.splat(0)
      for (let i = 0; i < side; i++, a += 16, b += 16)
        sum = f32x4.add(sum, f32x4.abs(f32x4.sub(v128.load(a), v128.load(b))))
      total += f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 2)
      if (total >= least) return total
    }
    return total
  }
}
