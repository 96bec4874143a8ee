// Coverage stays; nothing falls below 0 that was not there.
import { AddLightArguments } from '../../build/arguments'
import { ONE } from '../constants'
import { withAlphaOf } from '../points'


@final @unmanaged
export class AddLight extends AddLightArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const amount = this.amount
    const none = f32x4.splat(0)
    let cover: usize = this.cover.there ? this.cover.colour(x0, y) : 0
    let from = this.source.colour(x0, y)
    let light = this.light.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (const end = from + ((<usize>(x1 - x0)) << 4); from < end; from += 16, light += 16, to += 16) {
      const before = v128.load(from)
      let value = before
      if (cover) {
        value = f32x4.mul(before, f32x4.splat(ONE - amount * load<f32>(cover)))
        cover += 16
      }
      const sum = f32x4.max(f32x4.min(value, none), f32x4.add(value, f32x4.mul(v128.load(light), f32x4.splat(amount))))
      v128.store(to, withAlphaOf(sum, before))
    }
  }
}
