// Coverage of a pixel: pairs of f32 object number and f32 weight, the greatest first, ended by a weight of 0.
import { CUT_REACH, RANKS_BYTES } from './layout'
import { Raster } from './raster'

export const RANKS: usize = <usize>RANKS_BYTES


@inline
export function ranksAt(coverage: Raster, x: i32, y: i32): usize {
  return coverage.pointer + <usize>((y - coverage.top) * coverage.stride + (x - coverage.left)) * RANKS
}

// A pixel shows one object alone from this share on
export const ALONE: f32 = 0.98

// And from this share on it is likely the object in its middle, whose depth it tells
const MOSTLY: f32 = 0.5
// unless pixels about disagree by more than this about where it is
const ONE_PLACE: f32 = 1.04

/**
 * Depth of an object near a pixel: of the closest pixel that shows it alone; else of the closest that mostly shows it, unless
 * the pixel itself shows that most; the pixel's own where there is none.
 */
export function depthNear(all: Raster, depth: Raster, x: i32, y: i32, object: f32): f32 {
  const isOwn = load<f32>(ranksAt(all, x, y)) == object
  let likely: usize = 0
  let most = MOSTLY
  let least: f32 = 1e30
  let greatest: f32 = 0
  for (let ring = 1; ring <= CUT_REACH; ring++) {
    for (let dy = -ring; dy <= ring; dy++) {
      const qy = y + dy
      if (qy < all.top || qy >= all.bottom) continue
      const step = dy == -ring || dy == ring ? 1 : ring * 2
      for (let dx = -ring; dx <= ring; dx += step) {
        const qx = x + dx
        if (qx < all.left || qx >= all.right) continue
        const ranks = ranksAt(all, qx, qy)
        if (load<f32>(ranks) != object) continue
        const share = load<f32>(ranks, 4)
        if (share >= ALONE) return load<f32>(depth.single(qx, qy))
        if (share < MOSTLY || isOwn) continue
        const metres = load<f32>(depth.single(qx, qy))
        least = min(least, metres)
        greatest = max(greatest, metres)
        if (share <= most) continue
        most = share
        likely = depth.single(qx, qy)
      }
    }
  }
  return load<f32>(likely && greatest < least * ONE_PLACE ? likely : depth.single(x, y))
}
