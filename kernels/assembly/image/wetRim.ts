import { WetRimArguments } from '../../build/arguments'
import { ONE, TWO } from '../constants'
import * as L from '../layout'
import { lookAlong, wayY } from '../waterPlace'


@final
@unmanaged
export class WetRim extends WetRimArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const place = this.place
    const eye = load<f32>(place, L.WATER_EYE + 4)
    const level = load<f32>(place, L.WATER_LEVEL)
    const shore = load<f32>(place, L.WATER_SHORE)
    let from = this.source.colour(x0, y)
    let at = this.depth.single(x0, y)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, from += 16, at += 4, to += 16) {
      const value = v128.load(from)
      const metres = load<f32>(at)
      let wet: f32 = 0
      if (metres < shore) {
        lookAlong(place, <f32>x, <f32>y)
        const t = (eye + wayY * metres - level) / this.high
        if (t >= 0 && t < 1) wet = ONE - t * t * (3 - TWO * t)
      }
      v128.store(to, wet > 0 ? f32x4.mul(value, f32x4.replace_lane(f32x4.splat(ONE - wet * this.amount), 3, 1)) : value)
    }
  }
}
