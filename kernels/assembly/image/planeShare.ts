import { PlaneShareArguments } from '../../build/arguments'
import { planeMetres } from '../plane'


@final
@unmanaged
export class PlaneShare extends PlaneShareArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const than = this.than
    let at: usize = than.there ? than.single(x0, y) : 0
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, to += 4) {
      const metres = at ? load<f32>(at) : this.distance
      if (at) at += 4
      store<f32>(to, planeMetres(x, y, this.a, this.b, this.c, this.close) < metres ? 1 : 0)
    }
  }
}
