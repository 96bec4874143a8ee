import { OwnPlacesArguments } from '../../build/arguments'
import { HALF } from '../constants'


@final
@unmanaged
export class OwnPlaces extends OwnPlacesArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let to = this.out.colour(x0, y)
    const middle = <f32>y + HALF
    for (let x = x0; x < x1; x++, to += 16) v128.store(to, f32x4(<f32>x + HALF, middle, 1, 1))
  }
}
