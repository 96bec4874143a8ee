import { NoisePairArguments } from '../../build/arguments'
import { noise } from '../noise'


@final
@unmanaged
export class NoisePair extends NoisePairArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let from = this.map.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, from += 16, to += 16) {
      let px = load<f32>(from) * this.scale
      let py = load<f32>(from, 4) * this.scale
      let across: f32 = 0
      let down: f32 = 0
      let share: f32 = 1
      for (let i = 0; i < this.octaves; i++) {
        across += share * noise(px, py, this.boil, this.seed + i * 2)
        down += share * noise(px, py, this.boil, this.seed + i * 2 + 1)
        px *= 2
        py *= 2
        share *= <f32>0.5
      }
      v128.store(to, f32x4(across, down, 0, 1))
    }
  }
}
