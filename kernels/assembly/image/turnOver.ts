import { TurnOverArguments } from '../../build/arguments'
import { ONE } from '../constants'


@final
@unmanaged
export class TurnOver extends TurnOverArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let from = this.source.single(x0, y)
    let to = this.out.single(x0, y)
    for (let x = x0; x < x1; x++, from += 4, to += 4) store<f32>(to, ONE - load<f32>(from))
  }
}
