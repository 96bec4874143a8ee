import { MotionCarriedArguments } from '../../build/arguments'
import { HALF } from '../constants'
import { Raster } from '../raster'

let goneX: f32 = 0
let goneY: f32 = 0

/** How far from a pixel of the result a map has brought a place: as far as its slopes about the pixel say. */
function gone(map: Raster, x: i32, y: i32, placeX: f32, placeY: f32): void {
  const here = map.colour(x, y)
  const left = map.colour(x - 1, y)
  const right = map.colour(x + 1, y)
  const above = map.colour(x, y - 1)
  const below = map.colour(x, y + 1)
  const a = (load<f32>(right) - load<f32>(left)) * HALF
  const b = (load<f32>(below) - load<f32>(above)) * HALF
  const c = (load<f32>(right, 4) - load<f32>(left, 4)) * HALF
  const d = (load<f32>(below, 4) - load<f32>(above, 4)) * HALF
  const offX = placeX - load<f32>(here)
  const offY = placeY - load<f32>(here, 4)
  const det = a * d - b * c
  // What is folded there goes nowhere that could be said
  const over: f32 = abs<f32>(det) > <f32>1e-6 ? <f32>1 / det : 0
  goneX = (d * offX - b * offY) * over
  goneY = (a * offY - c * offX) * over
}


@final
@unmanaged
export class MotionCarried extends MotionCarriedArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const motion = this.motion
    let from = this.map.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, from += 16, to += 16) {
      const placeX = load<f32>(from)
      const placeY = load<f32>(from, 4)
      let own = f32x4.splat(0)
      if (
        motion.there &&
        placeX >= <f32>motion.left &&
        placeY >= <f32>motion.top &&
        placeX < <f32>motion.right &&
        placeY < <f32>motion.bottom
      )
        own = v128.load(motion.colour(<i32>floor<f32>(placeX), <i32>floor<f32>(placeY)))
      gone(this.next, x, y, placeX + f32x4.extract_lane(own, 0), placeY + f32x4.extract_lane(own, 1))
      store<f32>(to, goneX)
      store<f32>(to, goneY, 4)
      gone(this.before, x, y, placeX + f32x4.extract_lane(own, 2), placeY + f32x4.extract_lane(own, 3))
      store<f32>(to, goneX, 8)
      store<f32>(to, goneY, 12)
    }
  }
}
