import { FogShareArguments } from '../../build/arguments'
import { HALF, ONE } from '../constants'
import { powerOfTwo } from '../exponent'

/**
 * Metres of air as thick as at the ground on a way of so many metres, from a height above the ground and rising by so much
 * a metre: above the ground 2^-(height / thinning) as thick, below it as thick as there. The integral of that in closed
 * form.
 */
function airOn(way: f32, height: f32, rise: f32, thinning: f32): f32 {
  if (thinning <= 0) return way
  const rate = <f32>0.6931472 / thinning
  const end = height + rise * way
  let below: f32 = 0
  let first = height
  let above = way
  if (height <= 0 && end <= 0) return way
  if (height < 0 || end < 0) {
    // It crosses the ground
    const crossing = -height / rise
    below = height < 0 ? crossing : way - crossing
    above = way - below
    first = height < 0 ? 0 : height
  }
  const k = rate * rise
  const start = <f32>Math.exp(<f64>(-rate * first))
  const x = k * above
  // Level with the ground the quotient has no numbers left
  if (abs<f32>(x) < 1e-3) return below + start * above * (ONE - x * HALF)
  return below + start * <f32>((1 - Math.exp(<f64>-x)) / <f64>k)
}


@final
@unmanaged
export class FogShare extends FogShareArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let from = this.depth.single(x0, y)
    let to = this.out.single(x0, y)
    const half = -ONE / this.half
    const py = (<f32>y + HALF - this.middleY) * this.sideY
    for (let x = x0; x < x1; x++, from += 4, to += 4) {
      const px = (<f32>x + HALF - this.middleX) * this.sideX
      const long = sqrt<f32>(ONE + px * px + py * py)
      let depth = load<f32>(from)
      // What is no number stands as far as can be
      if (!(depth < 1e9)) depth = 1e9
      const way = max<f32>(0, depth) * long
      const rise = (this.rise0 + this.riseX * px + this.riseY * py) / long
      const clear = min(way, this.from)
      let air = airOn(way - clear, this.height + rise * clear, rise, this.thinning)
      if (this.uneven.there) air *= load<f32>(this.uneven.single(x, y))
      store<f32>(to, min(this.most, ONE - powerOfTwo(half * air)))
    }
  }
}
