import { WaterMetresArguments } from '../../build/arguments'


@final
@unmanaged
export class WaterMetres extends WaterMetresArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let from = this.surface.colour(x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, from += 16, to += 4) {
      const metres = load<f32>(from, 8)
      store<f32>(to, metres > 0 ? metres : this.nothing)
    }
  }
}
