import { CircleArguments } from '../../build/arguments'
import { ONE } from '../constants'


@final
@unmanaged
export class Circle extends CircleArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const most = this.most
    let from = this.depth.single(x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, from += 4, to += 4) {
      const depth = load<f32>(from)
      // What is no number is nothing that is known to stand anywhere
      const circle = depth == depth ? this.atInfinity * (ONE - this.distance / max<f32>(1e-6, depth)) : this.atInfinity
      store<f32>(to, max<f32>(-most, min<f32>(most, circle)))
    }
  }
}
