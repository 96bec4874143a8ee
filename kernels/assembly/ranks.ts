// Coverage of a pixel: pairs of f32 object number and f32 weight, the greatest first, ended by a weight of 0.
import { RANKS_BYTES } from './layout'
import { Raster } from './raster'

export const RANKS: usize = <usize>RANKS_BYTES


@inline
export function ranksAt(coverage: Raster, x: i32, y: i32): usize {
  return coverage.pointer + <usize>((y - coverage.top) * coverage.stride + (x - coverage.left)) * RANKS
}
