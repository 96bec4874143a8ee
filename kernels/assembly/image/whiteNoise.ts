// Numbers without order at each pixel of the frame: sums of eight bytes of a hash, which are spread like a bell up to more
// than four deviations.
import { WhiteNoiseArguments } from '../../build/arguments'
import { hash } from '../random'

/** Deviation of a sum of eight bytes: 8 (256² - 1) / 12, the root of it. */
const DEVIATION: f32 = 209.02153


@inline
function bytesOf(h: u32): i32 {
  return <i32>((h & 255) + ((h >> 8) & 255) + ((h >> 16) & 255) + (h >> 24))
}


@inline
function normal(seed: u32, which: u32): f32 {
  const first = hash(seed ^ (which * 0x9e3779b9))
  const sum = bytesOf(first) + bytesOf(hash(first + 0x7f4a7c15))
  return (<f32>sum - 1020) / DEVIATION
}


@final
@unmanaged
export class WhiteNoise extends WhiteNoiseArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let to = this.out.colour(x0, y)
    const line = hash(<u32>y * 0x8da6b343 + hash(<u32>this.number))
    for (let x = x0; x < x1; x++, to += 16) {
      const seed = hash(<u32>x * 0xd8163841 + line)
      const all = this.together * normal(seed, 4)
      store<f32>(to, this.own * normal(seed, 1) + all)
      store<f32>(to, this.own * normal(seed, 2) + all, 4)
      store<f32>(to, this.own * normal(seed, 3) + all, 8)
      store<f32>(to, 0, 12)
    }
  }
}
