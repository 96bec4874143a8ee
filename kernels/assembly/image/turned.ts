import { TurnedArguments } from '../../build/arguments'
import { between } from '../between'
import { HALF, ONE } from '../constants'


@final
@unmanaged
export class Turned extends TurnedArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    const turn = this.turn
    const toward = this.toward
    const dy = <f32>y + HALF - this.middleY
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const dx = <f32>x + HALF - this.middleX
      const distance = sqrt<f32>(dx * dx + dy * dy)
      // A tap a pixel of the way
      const count = max(1, min(this.most, <i32>ceil<f32>(distance * max(abs<f32>(turn), toward))))
      const share = ONE / <f32>count
      let sum = f32x4.splat(0)
      // As far to both sides
      const first = (HALF * share - HALF) * turn
      let cosine = <f32>Math.cos(<f64>first)
      let sine = <f32>Math.sin(<f64>first)
      const stepCosine = <f32>Math.cos(<f64>(turn * share))
      const stepSine = <f32>Math.sin(<f64>(turn * share))
      for (let i = 0; i < count; i++) {
        const scale = ONE + ((<f32>i + HALF) * share - HALF) * toward
        const px = (dx * cosine - dy * sine) * scale + this.middleX - HALF
        const py = (dx * sine + dy * cosine) * scale + this.middleY - HALF
        sum = f32x4.add(sum, between(source, px, py))
        const next = cosine * stepCosine - sine * stepSine
        sine = sine * stepCosine + cosine * stepSine
        cosine = next
      }
      v128.store(to, f32x4.mul(sum, f32x4.splat(share)))
    }
  }
}
