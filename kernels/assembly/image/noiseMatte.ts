// Gradient noise, octaves of half the size and half the strength summed up; the last of them in part.
import { NoiseMatteArguments } from '../../build/arguments'
import { HALF, ONE } from '../constants'
import { noise } from '../noise'


@final
@unmanaged
export class NoiseMatte extends NoiseMatteArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let to = this.out.single(x0, y)
    if (this.place.there) {
      let from = this.place.colour(x0, y)
      // Every octave goes its own way through it, so that it boils as a whole
      const boil = this.boil
      for (let x = x0; x < x1; x++, to += 4, from += 16) {
        const across = load<f32>(from) * this.scale - this.left
        const up = load<f32>(from, 4) * this.scale - this.top
        const back = load<f32>(from, 8) * this.scale
        store<f32>(to, this.shown(this.summed(across, up, back, boil)))
      }
      return
    }
    const down = (<f32>y + HALF - this.top) * this.scale
    for (let x = x0; x < x1; x++, to += 4)
      store<f32>(to, this.shown(this.summed((<f32>x + HALF - this.left) * this.scale, down, this.boil, 0)))
  }

  summed(x: f32, y: f32, z: f32, boil: f32): f32 {
    const octaves = this.octaves
    let sum: f32 = 0
    let size: f32 = 1
    let strength: f32 = HALF
    for (let i = 0; <f32>i < octaves; i++) {
      const share = min<f32>(1, octaves - <f32>i)
      // Octaves stand apart, or their corners would meet in one place
      const aside = <f32>i * <f32>17.3
      const turn = boil * (i & 1 ? -ONE : ONE)
      sum +=
        noise(x * size + aside + turn, y * size - aside + boil, z * size + aside - turn, this.seed + i) *
        strength *
        share
      size += size
      strength *= HALF
    }
    return sum
  }


  @inline
  shown(sum: f32): f32 {
    // What is no number is not in
    const value = max<f32>(0, min<f32>(1, sum * this.contrast + this.level))
    const held = value == value ? value : 0
    return this.invert ? ONE - held : held
  }
}
