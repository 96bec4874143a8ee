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

/** Depth of an object near a pixel: of the closest pixel that shows it alone; the pixel's own where there is none. */
export function depthNear(all: Raster, depth: Raster, x: i32, y: i32, object: f32): f32 {
  for (let ring = 1; ring <= CUT_REACH; ring++) {
    for (let dy = -ring; dy <= ring; dy++) {
      const qy = y + dy
      if (qy < all.top || qy >= all.bottom) continue
      const step = dy == -ring || dy == ring ? 1 : ring * 2
      for (let dx = -ring; dx <= ring; dx += step) {
        const qx = x + dx
        if (qx < all.left || qx >= all.right) continue
        const ranks = ranksAt(all, qx, qy)
        if (load<f32>(ranks) == object && load<f32>(ranks, 4) >= ALONE) return load<f32>(depth.single(qx, qy))
      }
    }
  }
  return load<f32>(depth.single(x, y))
}
