// How many samples a pixel of the accumulator has.
import { ONE } from './constants'
import * as L from './layout'

/** One over the samples that it got (of a kind of pass that gets no more than `most`; 0: all). */
@inline
export function perSample(pixel: usize, most: i32): f32 {
  const count = load<i32>(pixel, L.PIXEL_COUNT << 2)
  const counted = most > 0 ? min(count, most) : count
  return counted > 0 ? ONE / <f32>counted : 0
}
