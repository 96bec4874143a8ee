// The render cut in depth, so that flat layers stand between its objects. A pixel on the border of two objects belongs
// to both: how much of it is nearer than the cut comes from the coverage of each object and from where that object is
// next to the pixel; its colour is split between them by what they look like there.
import { number, pointer, whole } from './words'
import { COVERAGE_RANKS } from './layout'
import { ONE } from './constants'

const RANKS: usize = <usize>(COVERAGE_RANKS * 8)
// Wider than the pixel filter reaches (radius 1.5 px on both sides of a border)
const REACH = 3
// A pixel shows one object alone from this share on
const ALONE: f32 = 0.98


@inline
function sumOf(ranks: usize): f32 {
  let sum: f32 = 0
  for (let rank: usize = 0; rank < RANKS; rank += 8) {
    const weight = load<f32>(ranks + rank, 4)
    if (weight <= 0) break
    sum += weight
  }
  return sum
}

/** Depth of an object near a pixel: of the closest pixel that shows it alone; the pixel's own where there is none. */
function depthNear(coverage: usize, depths: usize, x: i32, y: i32, width: i32, height: i32, object: f32): f32 {
  for (let ring = 1; ring <= REACH; ring++) {
    for (let dy = -ring; dy <= ring; dy++) {
      const qy = y + dy
      if (qy < 0 || qy >= height) continue
      const step = dy == -ring || dy == ring ? 1 : ring * 2
      for (let dx = -ring; dx <= ring; dx += step) {
        const qx = x + dx
        if (qx < 0 || qx >= width) continue
        const at = <usize>(qy * width + qx)
        const ranks = coverage + at * RANKS
        if (load<f32>(ranks) == object && load<f32>(ranks, 4) >= ALONE) return load<f32>(depths + (at << 2))
      }
    }
  }
  return load<f32>(depths + ((<usize>(y * width + x)) << 2))
}

/**
 * Words: 2 coverage, 3 depth (f32 metres), 4 out (f32): share of what covers the pixel that is nearer than 5 (metres).
 */
export function frontShareBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const height = whole(args, 1)
  const distance = number(args, 5)
  const coverage = pointer(args, 2)
  const depths = pointer(args, 3)
  const out = pointer(args, 4)
  for (let y = y0; y < y1; y++) {
    for (let x = 0; x < width; x++) {
      const at = <usize>(y * width + x)
      const ranks = coverage + at * RANKS
      const own: f32 = load<f32>(depths + (at << 2)) < distance ? 1 : 0
      let share: f32 = own
      // Several objects: each where it is; one object, or none known: by the pixel's depth
      if (load<f32>(ranks + 12) > 0) {
        let front: f32 = 0
        for (let rank: usize = 0; rank < RANKS; rank += 8) {
          const weight = load<f32>(ranks + rank, 4)
          if (weight <= 0) break
          if (depthNear(coverage, depths, x, y, width, height, load<f32>(ranks + rank)) < distance) front += weight
        }
        share = min<f32>(1, front / sumOf(ranks))
      }
      store<f32>(out + (at << 2), share)
    }
  }
}

/** What of a pixel's colour lies in front, where the share map says so. */
function frontOf(source: usize, shares: usize, x: i32, y: i32, width: i32, height: i32): v128 {
  const at = <usize>(y * width + x)
  const value = v128.load(source + (at << 4))
  const share = load<f32>(shares + (at << 2))
  const alpha = f32x4.extract_lane(value, 3)
  if (share >= 1 || alpha <= 0) return value
  if (share <= 0) return f32x4.splat(0)
  // Means of what is wholly in front and wholly behind around it, with alpha divided out
  let front = f32x4.splat(0)
  let back = f32x4.splat(0)
  for (let qy = max(0, y - REACH), lastY = min(height - 1, y + REACH); qy <= lastY; qy++) {
    for (let qx = max(0, x - REACH), lastX = min(width - 1, x + REACH); qx <= lastX; qx++) {
      const other = <usize>(qy * width + qx)
      const s = load<f32>(shares + (other << 2))
      if (s > 0 && s < 1) continue
      const colour = v128.load(source + (other << 4))
      if (s >= 1) front = f32x4.add(front, colour)
      else back = f32x4.add(back, colour)
    }
  }
  const weightFront = f32x4.extract_lane(front, 3)
  const weightBack = f32x4.extract_lane(back, 3)
  const inFront = share * alpha
  const behind = alpha - inFront
  if (weightFront <= 0 || weightBack <= 0) return f32x4.mul(value, f32x4.splat(share))
  const near = f32x4.mul(front, f32x4.splat(inFront / weightFront))
  const far = f32x4.mul(back, f32x4.splat(behind / weightBack))
  // The two make the pixel, but for a rest: it is shared, and neither part may take more than there is
  const rest = f32x4.sub(value, f32x4.add(near, far))
  const part = f32x4.add(near, f32x4.mul(rest, f32x4.splat(share)))
  const bounded = f32x4.max(f32x4.splat(0), f32x4.min(part, f32x4.max(value, f32x4.splat(0))))
  return f32x4.replace_lane(bounded, 3, inFront)
}

/**
 * Words: 2 in, 3 out, 4 share in front of the far end (0: all), 5 share in front of the near end (0: none). The in
 * between.
 */
export function sliceBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const height = whole(args, 1)
  const source = pointer(args, 2)
  const out = pointer(args, 3)
  const far = pointer(args, 4)
  const near = pointer(args, 5)
  const zero = f32x4.splat(0)
  for (let y = y0; y < y1; y++) {
    for (let x = 0; x < width; x++) {
      const to = (<usize>(y * width + x)) << 4
      let value = far ? frontOf(source, far, x, y, width, height) : v128.load(source + to)
      if (near) {
        const nearer = frontOf(source, near, x, y, width, height)
        value = f32x4.sub(value, nearer)
        // The parts of one pixel are taken apart twice: what little falls below nothing is nothing
        if (f32x4.extract_lane(nearer, 3) > 0) value = f32x4.max(zero, value)
      }
      v128.store(out + to, value)
    }
  }
}
