// Numbers without order that lie on what stands in the scene, about as coarse in the picture wherever that is: of two
// octaves about that the share of each goes over with the distance.
import { StrokeNoiseArguments } from '../../build/arguments'
import { HALF, ONE } from '../constants'
import { apart, noise } from '../noise'


@final
@unmanaged
export class StrokeNoise extends StrokeNoiseArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const places = this.places
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const at = places.colour(x, y)
      // What a pixel sees of the surface: of both ways the less on either side, so that a border counts as none
      const right: f32 = x + 1 < places.right ? apart(places, at, x + 1, y) : Infinity
      const left: f32 = x > places.left ? apart(places, at, x - 1, y) : Infinity
      const below: f32 = y + 1 < places.bottom ? apart(places, at, x, y + 1) : Infinity
      const above: f32 = y > places.top ? apart(places, at, x, y - 1) : Infinity
      const wide = max(min(left, right), min(above, below))
      let px = load<f32>(at)
      let py = load<f32>(at, 4)
      let pz = load<f32>(at, 8)
      let octave: f32 = 0
      if (wide > <f32>1e-7 && wide < <f32>1e5) octave = -(<f32>Math.log2(<f64>(wide * this.period)))
      else {
        // Where nothing stands they lie in the frame
        px = (<f32>x + HALF) / this.period
        py = (<f32>y + HALF) / this.period
        pz = 0
      }
      const whole = floor<f32>(octave)
      const part = octave - whole
      const scale = <f32>Math.pow(2, <f64>whole)
      const one = noise(px * scale, py * scale, pz * scale, this.seed + <i32>whole)
      const two = noise(px * scale * 2, py * scale * 2, pz * scale * 2, this.seed + <i32>whole + 1)
      // Both are without order beside each other: their squares add up
      const less = ONE - part
      const value = (one * less + two * part) / sqrt<f32>(less * less + part * part)
      v128.store(to, f32x4(value, value, value, ONE))
    }
  }
}
