// Noise at places of the world. What is finer than a pixel sees of it fades, so that nothing shimmers.
import { NoiseInSpaceArguments } from '../../build/arguments'
import { HALF, ONE } from '../constants'
import { apart, noise } from '../noise'


@final
@unmanaged
export class NoiseInSpace extends NoiseInSpaceArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const places = this.places
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const at = places.colour(x, y)
      let scale = this.scale
      // Of the two ways the longer: a surface seen aslant has fewer pixels
      const beside = x + 1 < places.right ? x + 1 : max(places.left, x - 1)
      const below = y + 1 < places.bottom ? y + 1 : max(places.top, y - 1)
      const wide = max(apart(places, at, beside, y), apart(places, at, x, below))
      let across: f32 = 0
      let down: f32 = 0
      let share: f32 = 1
      for (let i = 0; i < this.octaves; i++) {
        // Half a period to a pixel is gone, a fifth is whole
        const seen = max<f32>(0, min<f32>(1, (HALF - wide * scale) / <f32>0.3)) * share
        if (!(seen > 0)) break
        const px = load<f32>(at) * scale
        const py = load<f32>(at, 4) * scale
        const pz = load<f32>(at, 8) * scale
        across += seen * noise(px, py, pz, this.seed + i * 2)
        down += seen * noise(px, py, pz, this.seed + i * 2 + 1)
        scale *= 2
        share *= HALF
      }
      v128.store(to, f32x4(across, down, 0, ONE))
    }
  }
}
