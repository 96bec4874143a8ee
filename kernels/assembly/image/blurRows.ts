import { BlurRowsArguments } from '../../build/arguments'
import { mirrored } from '../mirror'


@final
@unmanaged
export class BlurRows extends BlurRowsArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const reach = this.reach
    const weights = this.weights
    const left = source.left
    const right = source.right
    let to = this.out.colour(x0, y)
    if (y < source.top || y >= source.bottom) {
      memory.fill(to, 0, (<usize>(x1 - x0)) << 4)
      return
    }
    const row = source.colour(left, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const at = row + ((<isize>(x - left)) << 4)
      if (x - reach >= left && x + reach < right) {
        let sum = f32x4.mul(v128.load(at), v128.load32_splat(weights))
        for (let i = 1, by: usize = 16, tap = weights + 4; i <= reach; i++, by += 16, tap += 4)
          sum = f32x4.add(sum, f32x4.mul(f32x4.add(v128.load(at - by), v128.load(at + by)), v128.load32_splat(tap)))
        v128.store(to, sum)
        continue
      }
      let sum = f32x4.mul(this.pick(row, x, left, right), v128.load32_splat(weights))
      for (let i = 1, tap = weights + 4; i <= reach; i++, tap += 4)
        sum = f32x4.add(
          sum,
          f32x4.mul(
            f32x4.add(this.pick(row, x - i, left, right), this.pick(row, x + i, left, right)),
            v128.load32_splat(tap),
          ),
        )
      v128.store(to, sum)
    }
  }


  @inline
  pick(row: usize, x: i32, left: i32, right: i32): v128 {
    if (this.edge) x = mirrored(x, left, right)
    else if (x < left || x >= right) return i32x4.splat(0)
    return v128.load(row + ((<usize>(x - left)) << 4))
  }
}
