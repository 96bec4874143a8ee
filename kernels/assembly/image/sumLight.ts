import { SumLightArguments } from '../../build/arguments'


@final @unmanaged
export class SumLight extends SumLightArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const gain = f32x4.splat(this.gain)
    let sum: usize = this.sum.there ? this.sum.colour(x0, y) : 0
    let light = this.light.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (const end = light + ((<usize>(x1 - x0)) << 4); light < end; light += 16, to += 16) {
      const more = f32x4.mul(v128.load(light), gain)
      v128.store(to, sum ? f32x4.add(v128.load(sum), more) : more)
      if (sum) sum += 16
    }
  }
}
