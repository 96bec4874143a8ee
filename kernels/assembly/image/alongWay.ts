// Sums along the lines that a field of directions leads (B. Cabral, L. Leedom, "Imaging Vector Fields Using Line Integral
// Convolution", SIGGRAPH 1993), step by step to both sides; which of both ways a direction points does not matter. All that
// changes from step to step is in local variables, which stay in registers.
import { AlongWayArguments } from '../../build/arguments'
import { HALF } from '../constants'

/** Pixels across that are done row by row: what their ways lead through stays near the processor. */
const TILE: i32 = 64


@final
@unmanaged
export class AlongWay extends AlongWayArguments {
  block(x0: i32, y0: i32, x1: i32, y1: i32): void {
    for (let x = x0; x < x1; x += TILE) for (let y = y0; y < y1; y++) this.part(x, min(x + TILE, x1), y)
  }

  part(x0: i32, x1: i32, y: i32): void {
    const from = this.source
    const row = from.stride << 4
    // Where the pixel 0, 0 of the frame would be
    const source = <i32>from.pointer - from.top * row - (from.left << 4)
    const way = this.way
    const wayRow = way.stride << 4
    const ways = <i32>way.pointer - way.top * wayRow - (way.left << 4)
    const step = this.step
    const weights = this.weights
    const end = weights + ((<usize>this.count) << 2)
    let to = this.out.colour(x0, y)
    let at = way.colour(x0, y)
    let middle = from.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16, at += 16, middle += 16) {
      const own = v128.load(middle)
      const wx = load<f32>(at)
      const wy = load<f32>(at, 4)
      if (wx == 0 && wy == 0) {
        v128.store(to, own)
        continue
      }
      let sum = f32x4.mul(own, v128.load32_splat(weights))
      let sign: f32 = 1
      for (let side = 0; side < 2; side++) {
        let px = <f32>x
        let py = <f32>y
        let dx = wx * sign
        let dy = wy * sign
        for (let weight = weights + 4; weight < end; weight += 4) {
          px += dx * step
          py += dy * step
          const column = floor<f32>(px)
          const line = floor<f32>(py)
          const place = <usize>(source + <i32>line * row + ((<i32>column) << 4))
          const fx = f32x4.splat(px - column)
          const fy = f32x4.splat(py - line)
          const a = v128.load(place)
          const c = v128.load(place + <usize>row)
          const upper = f32x4.add(a, f32x4.mul(f32x4.sub(v128.load(place, 16), a), fx))
          const lower = f32x4.add(c, f32x4.mul(f32x4.sub(v128.load(place + <usize>row, 16), c), fx))
          const seen = f32x4.add(upper, f32x4.mul(f32x4.sub(lower, upper), fy))
          sum = f32x4.add(sum, f32x4.mul(seen, v128.load32_splat(weight)))
          // On along what leads there; where nothing does, as it went
          const next = <usize>(ways + <i32>floor<f32>(py + HALF) * wayRow + ((<i32>floor<f32>(px + HALF)) << 4))
          const nx = load<f32>(next)
          const ny = load<f32>(next, 4)
          const along = nx * dx + ny * dy
          if (along > 0) {
            dx = nx
            dy = ny
          } else if (along < 0) {
            dx = -nx
            dy = -ny
          }
        }
        sign = -1
      }
      v128.store(to, sum)
    }
  }
}
