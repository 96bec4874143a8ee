import { DeskArguments } from '../../build/arguments'
import { ONE } from '../constants'
import { DESK_GAIN, DESK_ROW } from '../layout'
import { luminance, withAlphaOf } from '../points'
import { RANKS, ranksAt } from '../ranks'

// A mean of ones by cover is not quite one
const SAME: f32 = 1e-5
// Contrast is about it (scene-linear)
const MIDDLE_GREY: f32 = 0.18


@inline
function spread(value: f32, amount: f32): f32 {
  const size = Mathf.pow(abs<f32>(value) / MIDDLE_GREY, amount) * MIDDLE_GREY
  return value < 0 ? -size : size
}


@final @unmanaged
export class Desk extends DeskArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const direct = this.direct.colour(x0, y)
    const toIndirect = this.indirect.colour(x0, y) - direct
    const toReflection = this.reflection.colour(x0, y) - direct
    const toRefraction = this.refraction.colour(x0, y) - direct
    const toEmission = this.emission.colour(x0, y) - direct
    const toEnvironment = this.environment.colour(x0, y) - direct
    const toOut = this.out.colour(x0, y) - direct
    const occlusion: usize = this.occlusion.there ? this.occlusion.single(x0, y) : 0
    const gains = this.gains
    let ranks = ranksAt(this.coverage, x0, y)
    let at = direct
    for (let i = 0, count = x1 - x0; i < count; i++, at += 16, ranks += RANKS) {
      const first = v128.load(at)
      let g0: v128
      let g1: v128
      let g2: v128
      const alone = load<f32>(ranks, 4)
      if (alone <= 0 || alone == 1) {
        // Nothing, or one object: its own row
        const row = alone == 1 ? gains + <usize>(<i32>load<f32>(ranks)) * DESK_ROW : gains
        g0 = v128.load(row)
        g1 = v128.load(row, 16)
        g2 = v128.load(row, DESK_GAIN)
      } else {
        g0 = f32x4.splat(0)
        g1 = f32x4.splat(0)
        g2 = f32x4.splat(0)
        let sum: f32 = 0
        for (let rank: usize = 0; rank < RANKS; rank += 8) {
          const weight = load<f32>(ranks + rank, 4)
          if (weight <= 0) break
          const row = gains + <usize>(<i32>load<f32>(ranks + rank)) * DESK_ROW
          const by = f32x4.splat(weight)
          g0 = f32x4.add(g0, f32x4.mul(v128.load(row), by))
          g1 = f32x4.add(g1, f32x4.mul(v128.load(row, 16), by))
          g2 = f32x4.add(g2, f32x4.mul(v128.load(row, DESK_GAIN), by))
          sum += weight
        }
        const scale = f32x4.splat(ONE / sum)
        g0 = f32x4.mul(g0, scale)
        g1 = f32x4.mul(g1, scale)
        g2 = f32x4.mul(g2, scale)
      }
      let value = f32x4.mul(first, f32x4.splat(f32x4.extract_lane(g0, 0)))
      value = f32x4.add(value, f32x4.mul(v128.load(at + toIndirect), f32x4.splat(f32x4.extract_lane(g0, 1))))
      value = f32x4.add(value, f32x4.mul(v128.load(at + toReflection), f32x4.splat(f32x4.extract_lane(g0, 2))))
      let closed: f32 = 1
      if (occlusion) closed = ONE - f32x4.extract_lane(g1, 2) * (ONE - load<f32>(occlusion + ((<usize>i) << 2)))
      // What shines by itself, or comes through, is not darkened by creases
      value = f32x4.mul(value, f32x4.splat(closed))
      value = f32x4.add(value, f32x4.mul(v128.load(at + toRefraction), f32x4.splat(f32x4.extract_lane(g0, 3))))
      value = f32x4.add(value, f32x4.mul(v128.load(at + toEmission), f32x4.splat(f32x4.extract_lane(g1, 0))))
      value = f32x4.mul(value, g2)
      const contrast = f32x4.extract_lane(g1, 3)
      const alpha = f32x4.extract_lane(first, 3)
      if (abs<f32>(contrast - ONE) > SAME && alpha > 0) {
        // Of the colour itself, not of what a border leaves of it
        const whole = f32x4.mul(value, f32x4.splat(ONE / alpha))
        value = f32x4(
          spread(f32x4.extract_lane(whole, 0), contrast) * alpha,
          spread(f32x4.extract_lane(whole, 1), contrast) * alpha,
          spread(f32x4.extract_lane(whole, 2), contrast) * alpha,
          0,
        )
      }
      const grey = luminance(value)
      const saturation = f32x4.splat(f32x4.extract_lane(g2, 3))
      value = f32x4.add(grey, f32x4.mul(f32x4.sub(value, grey), saturation))
      // The environment has no object: it takes the gain of row 0
      value = f32x4.add(value, f32x4.mul(v128.load(at + toEnvironment), f32x4.splat(load<f32>(gains, 20))))
      v128.store(at + toOut, withAlphaOf(value, first))
    }
  }
}
