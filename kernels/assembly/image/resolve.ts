// Planes of a render made from the accumulator: from a field of its `stride` floats a pixel so many channels, by how.
// other: the field of the weights, or of the second choice; nothing: the value where there is nothing; metCentre and
// metNearest: fields of the numbers that say whether the middle and the nearest met something. Of a ratio metCentre is
// the field of sums of the share that it is about (0: it is about all); the rest of what is not covered by objects is as
// it was. most: samples that it got at most (0: all).
import { ResolveArguments } from '../../build/arguments'
import { ONE } from '../constants'
import * as L from '../layout'
import { perSample } from '../samples'


@final @unmanaged
export class Resolve extends ResolveArguments {
  block(_x0: i32, y0: i32, x1: i32, y1: i32): void {
    const stride = (<usize>this.stride) << 2
    const field = (<usize>this.field) << 2
    const channels = this.channels
    const how = this.how
    const most = this.most
    const other = (<usize>this.other) << 2
    const nothing = this.nothing
    let pixel = this.accumulator + <usize>(y0 * x1) * stride
    let out = this.out + ((<usize>(y0 * x1 * channels)) << 2)
    for (let i = (y1 - y0) * x1; i > 0; i--, pixel += stride) {
      const from = pixel + field
      if (how == L.RESOLVE_CHOICE) {
        // What the middle met, else the nearest
        const centre = load<i32>(pixel + ((<usize>this.metCentre) << 2))
        const nearest = load<i32>(pixel + ((<usize>this.metNearest) << 2))
        store<i32>(out, centre ? load<i32>(from) : nearest ? load<i32>(pixel + other) : reinterpret<i32>(nothing))
        out += 4
        continue
      }
      let share = perSample(pixel, most)
      let about: f32 = 1
      if (how == L.RESOLVE_RATIO && this.metCentre) {
        const open = ONE - load<f32>(pixel, L.PIXEL_ALPHA << 2) * perSample(pixel, 0)
        about = min<f32>(1, (load<f32>(pixel + ((<usize>this.metCentre) << 2)) * share) / max<f32>(1e-4, open))
      }
      if (how == L.RESOLVE_DIRECTION) {
        const x = load<f32>(from)
        const y = load<f32>(from, 4)
        const z = load<f32>(from, 8)
        const long = sqrt<f32>(x * x + y * y + z * z)
        share = long > 1e-6 ? ONE / long : 0
      } else if (how == L.RESOLVE_SHARE) {
        const weight = load<f32>(pixel + other)
        share = weight > 0 ? ONE / weight : 0
        if (share == 0) {
          for (let c = 0; c < channels; c++, out += 4) store<f32>(out, nothing)
          continue
        }
      }
      for (let c: usize = 0; c < <usize>channels; c++, out += 4) {
        if (how == L.RESOLVE_WORD) store<i32>(out, load<i32>(from + (c << 2)))
        else if (how == L.RESOLVE_RATIO) {
          const weight = load<f32>(pixel + other + (c << 2))
          const ratio: f32 = weight > 0 ? load<f32>(from + (c << 2)) / weight : nothing
          store<f32>(out, nothing + (ratio - nothing) * about)
        } else store<f32>(out, load<f32>(from + (c << 2)) * share)
      }
    }
  }
}
