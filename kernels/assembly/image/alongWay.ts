// Sums along the lines that a field of directions leads (B. Cabral, L. Leedom, "Imaging Vector Fields Using Line Integral
// Convolution", SIGGRAPH 1993), step by step to both sides; which of both ways a direction points does not matter.
import { AlongWayArguments } from '../../build/arguments'
import { between } from '../between'
import { HALF } from '../constants'


@final
@unmanaged
export class AlongWay extends AlongWayArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const at = this.way.colour(x, y)
      const dx = load<f32>(at)
      const dy = load<f32>(at, 4)
      const middle = v128.load(source.colour(x, y))
      let sum = f32x4.mul(middle, v128.load32_splat(this.weights))
      sum = f32x4.add(sum, this.walk(x, y, dx, dy, middle))
      sum = f32x4.add(sum, this.walk(x, y, -dx, -dy, middle))
      v128.store(to, sum)
    }
  }


  @inline
  walk(x: i32, y: i32, dx: f32, dy: f32, middle: v128): v128 {
    const way = this.way
    let px = <f32>x
    let py = <f32>y
    let sum = f32x4.splat(0)
    for (let i = 1; i < this.count; i++) {
      const weight = v128.load32_splat(this.weights + ((<usize>i) << 2))
      if (dx == 0 && dy == 0) {
        sum = f32x4.add(sum, f32x4.mul(middle, weight))
        continue
      }
      px += dx * this.step
      py += dy * this.step
      sum = f32x4.add(sum, f32x4.mul(between(this.source, px, py), weight))
      const next = way.colour(<i32>floor<f32>(px + HALF), <i32>floor<f32>(py + HALF))
      const nx = load<f32>(next)
      const ny = load<f32>(next, 4)
      // Where there is none it goes on as it went
      if (nx == 0 && ny == 0) continue
      const sign: f32 = nx * dx + ny * dy < 0 ? -1 : 1
      dx = nx * sign
      dy = ny * sign
    }
    return sum
  }
}
