import { PlaneDepthArguments } from '../../build/arguments'
import { planeMetres } from '../plane'


@final
@unmanaged
export class PlaneDepth extends PlaneDepthArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, to += 4) store<f32>(to, planeMetres(x, y, this.a, this.b, this.c, this.close))
  }
}
