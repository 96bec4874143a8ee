import { HalveArguments } from '../../build/arguments'


@final @unmanaged
export class Halve extends HalveArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const quarter = f32x4.splat(0.25)
    const upper = min(y * 2, source.bottom - 1)
    const lower = min(y * 2 + 1, source.bottom - 1)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const left = min(x * 2, source.right - 1)
      const right = min(x * 2 + 1, source.right - 1)
      const sum = f32x4.add(
        f32x4.add(v128.load(source.colour(left, upper)), v128.load(source.colour(right, upper))),
        f32x4.add(v128.load(source.colour(left, lower)), v128.load(source.colour(right, lower))),
      )
      v128.store(to, f32x4.mul(sum, quarter))
    }
  }
}
