// What is seen at each pixel at many moments while the shutter is open, each as long as all others. At a moment that is the
// nearest of the pixels that are there by then; they are looked for on the few paths that lead by: the pixel's own, and two
// of those about (after M. McGuire, P. Hennessy, M. Bukowski, B. Osman, "A Reconstruction Filter for Plausible Motion
// Blur", I3D 2012, whose tiles these are; own: moments, and that what is found must be where it is then). What comes out
// from behind something shows the farthest of what was looked at: what lies beside it, as far away as that has gone.
import { MotionBlurArguments } from '../../build/arguments'
import * as L from '../layout'
import { HALF, ONE } from '../constants'
import { apartSquare, farthestSquare, pathX, pathY } from '../motion'

/** More moments would not be seen. */
const MOST_MOMENTS: i32 = 64
const LEAST_MOMENTS: i32 = 8
/** Square of a path (pixels) that is none. */
const STILL: f32 = 0.04
/** Square of how far paths lead apart at most (pixels) that are one. */
const SAME: f32 = 0.06
/** Square of how far from a pixel what is seen there may be (pixels). */
const NEAR: f32 = 0.5
/** Looks along a path and those that it leads to: what turns has another path beside each. */
const GOES: i32 = 3
const NOT_FOUND: f32 = 3e38

/** Of what is seen at the moment: how far away it is, its path and where it is in the picture. */
let found: f32 = 0
let foundPath: v128 = f32x4.splat(0)
let foundX: f32 = 0
let foundY: f32 = 0
/** The farthest of what was looked at. */
let behind: f32 = 0
let behindPath: v128 = f32x4.splat(0)
let behindX: f32 = 0
let behindY: f32 = 0


@final
@unmanaged
export class MotionBlur extends MotionBlurArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const open = this.open
    const close = this.close
    const paths = this.paths
    let from = this.source.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, from += 16, to += 16) {
      const cellX = x >> L.MOTION_CELL_BITS
      const cellY = y >> L.MOTION_CELL_BITS
      const first = v128.load(this.first.colour(cellX, cellY))
      const far = farthestSquare(first, open, close)
      if (far < STILL) {
        v128.store(to, v128.load(from))
        continue
      }
      const second = v128.load(this.second.colour(cellX, cellY))
      const own = v128.load(paths.colour(x, y))
      const asFirst = apartSquare(own, first, open, close) < SAME
      const asSecond = apartSquare(own, second, open, close) < SAME
      const alike = apartSquare(first, second, open, close) < SAME
      // All of its way has two halves where the shutter is open before and after the frame
      const way = sqrt<f32>(far) * (open < 0 && close > 0 ? 2 : 1)
      const moments = min(MOST_MOMENTS, max(LEAST_MOMENTS, <i32>ceil<f32>(way * <f32>1.5)))
      const px = <f32>x + HALF
      const py = <f32>y + HALF
      let sum = f32x4.splat(0)
      for (let i = 0; i < moments; i++) {
        const t = open + ((close - open) * (<f32>i + HALF)) / <f32>moments
        found = NOT_FOUND
        behind = -ONE
        this.look(own, px, py, t)
        if (!asFirst) this.look(first, px, py, t)
        if (!asSecond && !alike) this.look(second, px, py, t)
        if (found == NOT_FOUND) {
          this.lookBehind(px, py)
          foundPath = behindPath
          foundX = behindX
          foundY = behindY
        }
        sum = f32x4.add(sum, this.colourAt(t))
      }
      v128.store(to, f32x4.mul(sum, f32x4.splat(ONE / <f32>moments)))
    }
  }

  /** Whether a pixel that goes by a path, or by that of what is met on it, is here by then, and the nearest so far. */
  @inline
  look(path: v128, px: f32, py: f32, t: f32): void {
    let x = px - pathX(path, t)
    let y = py - pathY(path, t)
    for (let go = 0; go < GOES; go++) {
      const there = v128.load(this.paths.colour(this.column(x), this.line(y)))
      const nextX = px - pathX(there, t)
      const nextY = py - pathY(there, t)
      const offX = nextX - x
      const offY = nextY - y
      if (offX * offX + offY * offY < NEAR) {
        const metres = load<f32>(this.depth.single(this.column(nextX), this.line(nextY)))
        if (metres >= found) return
        found = metres
        foundPath = there
        foundX = nextX
        foundY = nextY
        return
      }
      if (go == 0) {
        const metres = load<f32>(this.depth.single(this.column(x), this.line(y)))
        if (metres > behind) {
          behind = metres
          behindPath = there
          behindX = x
          behindY = y
        }
      }
      x = nextX
      y = nextY
    }
  }

  /** What is at the pixel itself may be the farthest, too. */
  @inline
  lookBehind(px: f32, py: f32): void {
    const metres = load<f32>(this.depth.single(this.column(px), this.line(py)))
    if (metres <= behind) return
    behindPath = v128.load(this.paths.colour(this.column(px), this.line(py)))
    behindX = px
    behindY = py
  }


  @inline
  column(x: f32): i32 {
    return max(this.source.left, min(this.source.right - 1, <i32>floor<f32>(x)))
  }


  @inline
  line(y: f32): i32 {
    return max(this.source.top, min(this.source.bottom - 1, <i32>floor<f32>(y)))
  }

  /** The colour between the four pixels about a place, of those that go the same way. */
  @inline
  colourAt(t: f32): v128 {
    const x = foundX - HALF
    const y = foundY - HALF
    const fx = x - floor<f32>(x)
    const fy = y - floor<f32>(y)
    let sum = f32x4.splat(0)
    let weights: f32 = 0
    for (let i = 0; i < 4; i++) {
      const share = (i & 1 ? fx : ONE - fx) * (i & 2 ? fy : ONE - fy)
      if (share < <f32>1e-4) continue
      const column = this.column(x + <f32>(i & 1) + HALF - fx)
      const line = this.line(y + <f32>(i >> 1) + HALF - fy)
      const path = f32x4.sub(v128.load(this.paths.colour(column, line)), foundPath)
      const apartX = pathX(path, t)
      const apartY = pathY(path, t)
      if (apartX * apartX + apartY * apartY > ONE) continue
      sum = f32x4.add(sum, f32x4.mul(v128.load(this.source.colour(column, line)), f32x4.splat(share)))
      weights += share
    }
    return weights > 0
      ? f32x4.mul(sum, f32x4.splat(ONE / weights))
      : v128.load(this.source.colour(this.column(foundX), this.line(foundY)))
  }
}
