import { ResolveCoverageArguments } from '../../build/arguments'
import { perSample } from '../samples'


@final @unmanaged
export class ResolveCoverage extends ResolveCoverageArguments {
  block(_x0: i32, y0: i32, x1: i32, y1: i32): void {
    const stride = (<usize>this.stride) << 2
    const field = (<usize>this.field) << 2
    const slots = <usize>this.slots
    const ranks = <usize>this.ranks
    const most = this.most
    const first = <usize>(y0 * x1)
    let pixel = this.accumulator + first * stride
    let index = this.index + first * ranks * 2
    let weight = this.weight + first * ranks * 4
    for (let i = (y1 - y0) * x1; i > 0; i--, pixel += stride, index += ranks * 2, weight += ranks * 4) {
      const scale = perSample(pixel, most)
      let count: usize = 0
      for (let slot: usize = 0; slot < slots; slot++) {
        const at = pixel + field + (slot << 3)
        const held = load<i32>(at)
        if (!held) break
        const share = load<f32>(at, 4) * scale
        // Insertion into the few ranks
        let rank = count
        while (rank > 0 && load<f32>(weight + ((rank - 1) << 2)) < share) {
          if (rank < ranks) {
            store<f32>(weight + (rank << 2), load<f32>(weight + ((rank - 1) << 2)))
            store<u16>(index + (rank << 1), load<u16>(index + ((rank - 1) << 1)))
          }
          rank--
        }
        if (rank < ranks) {
          store<f32>(weight + (rank << 2), share)
          store<u16>(index + (rank << 1), <u16>held)
        }
        if (count < ranks) count++
      }
      for (let rank = count; rank < ranks; rank++) {
        store<f32>(weight + (rank << 2), 0)
        store<u16>(index + (rank << 1), 0)
      }
    }
  }
}
