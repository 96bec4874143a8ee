// A picture brought to other places. Where it is not made smaller a sharp filter over six pixels each way; where it is, the
// mean of as many places as the pixel covers of it, straight between its pixels each, so that nothing is left out.
import { ResampleArguments } from '../../build/arguments'
import { pick, straight } from '../between'
import { HALF, ONE } from '../constants'
import * as L from '../layout'
import { Raster } from '../raster'

/** Places each way that a pixel is the mean of, at most. */
const MOST_PLACES: i32 = 32
/** Made smaller by so much nothing is missed that one would see: the sharp filter does it alone. */
const SPARED: f32 = 0.25
/** A map that goes farther from a pixel to both neighbours does not go on there. */
const BROKEN: f32 = 4000

/** From a place to the next along a direction, by the side on which it changes less: seams do not count. */
@inline
function lesser(before: f32, here: f32, after: f32): f32 {
  const a = here - before
  const b = after - here
  return abs<f32>(a) < abs<f32>(b) ? a : b
}

/**
 * What a sharp filter made, held to the range of the four pixels about a place and a share of it more. Downwards no more
 * than that share of the darkest itself: beside a lamp there would be a black rim.
 */
@inline
function held(made: v128, low: v128, high: v128, ring: f32): v128 {
  const share = f32x4.splat(ring)
  const range = f32x4.sub(high, low)
  const least = f32x4.sub(low, f32x4.mul(share, f32x4.min(range, f32x4.max(low, f32x4.splat(0)))))
  return f32x4.max(least, f32x4.min(f32x4.add(high, f32x4.mul(share, range)), made))
}


@final
@unmanaged
export class Resample extends ResampleArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const map = this.map
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const at = map.colour(x, y)
      const seen = load<f32>(at, 8)
      const sx = load<f32>(at) - HALF
      const sy = load<f32>(at, 4) - HALF
      // What is no number is nowhere
      if (!(seen > 0) || !(abs<f32>(sx) < <f32>1e7) || !(abs<f32>(sy) < <f32>1e7)) {
        v128.store(to, i32x4.splat(0))
        continue
      }
      const row = (<usize>map.stride) << 4
      const ax = lesser(load<f32>(at - 16), load<f32>(at), load<f32>(at + 16))
      const ay = lesser(load<f32>(at - 16, 4), load<f32>(at, 4), load<f32>(at + 16, 4))
      const bx = lesser(load<f32>(at - row), load<f32>(at), load<f32>(at + row))
      const by = lesser(load<f32>(at - row, 4), load<f32>(at, 4), load<f32>(at + row, 4))
      const across = this.places(ax, ay)
      const down = this.places(bx, by)
      const value = across * down == 1 ? this.sharp(sx, sy) : this.mean(sx, sy, ax, ay, bx, by, across, down)
      v128.store(to, seen >= 1 ? value : f32x4.mul(value, f32x4.splat(seen)))
    }
  }

  /** How many places a pixel covers along a direction. */
  @inline
  places(x: f32, y: f32): i32 {
    const far = sqrt<f32>(x * x + y * y)
    if (!(far < BROKEN)) return 1
    return max(1, min(MOST_PLACES, <i32>ceil<f32>(far - SPARED)))
  }

  mean(sx: f32, sy: f32, ax: f32, ay: f32, bx: f32, by: f32, across: i32, down: i32): v128 {
    let sum = f32x4.splat(0)
    const few = across <= 2 && down <= 2
    for (let j = 0; j < down; j++) {
      const v = (<f32>j + HALF) / <f32>down - HALF
      for (let i = 0; i < across; i++) {
        const u = (<f32>i + HALF) / <f32>across - HALF
        const px = sx + u * ax + v * bx
        const py = sy + u * ay + v * by
        // Few places: straight between pixels would soften what is hardly made smaller
        sum = f32x4.add(sum, few ? this.sharp(px, py) : straight(this.source, px, py, this.edge))
      }
    }
    return f32x4.mul(sum, f32x4.splat(ONE / <f32>(across * down)))
  }

  sharp(x: f32, y: f32): v128 {
    const source = this.source
    const edge = this.edge
    let column = <i32>floor<f32>(x)
    let line = <i32>floor<f32>(y)
    const phaseX = <i32>nearest<f32>((x - <f32>column) * <f32>L.RESAMPLE_PHASES)
    const phaseY = <i32>nearest<f32>((y - <f32>line) * <f32>L.RESAMPLE_PHASES)
    const weightsX = this.weights + <usize>phaseX * 24
    const weightsY = this.weights + <usize>phaseY * 24
    // All of it lies beyond
    if (
      !edge &&
      (column + 3 < source.left || line + 3 < source.top || column - 2 >= source.right || line - 2 >= source.bottom)
    )
      return i32x4.splat(0)
    const isInside =
      column - 2 >= source.left && line - 2 >= source.top && column + 3 < source.right && line + 3 < source.bottom
    let sum = f32x4.splat(0)
    let low = f32x4.splat(1e30)
    let high = f32x4.splat(-1e30)
    for (let j = 0; j < 6; j++) {
      const wy = load<f32>(weightsY + ((<usize>j) << 2))
      const isMiddle = j == 2 || j == 3
      if (wy == 0 && !isMiddle) continue
      let part = f32x4.splat(0)
      if (isInside) {
        const at = source.colour(column - 2, line - 2 + j)
        const c = v128.load(at, 32)
        const d = v128.load(at, 48)
        part = f32x4.add(
          f32x4.add(
            f32x4.add(
              f32x4.mul(v128.load(at), v128.load32_splat(weightsX)),
              f32x4.mul(v128.load(at, 16), v128.load32_splat(weightsX, 4)),
            ),
            f32x4.add(f32x4.mul(c, v128.load32_splat(weightsX, 8)), f32x4.mul(d, v128.load32_splat(weightsX, 12))),
          ),
          f32x4.add(
            f32x4.mul(v128.load(at, 64), v128.load32_splat(weightsX, 16)),
            f32x4.mul(v128.load(at, 80), v128.load32_splat(weightsX, 20)),
          ),
        )
        if (isMiddle) {
          low = f32x4.pmin(low, f32x4.pmin(c, d))
          high = f32x4.pmax(high, f32x4.pmax(c, d))
        }
      } else
        for (let i = 0; i < 6; i++) {
          const value = pick(source, column - 2 + i, line - 2 + j, edge)
          part = f32x4.add(part, f32x4.mul(value, v128.load32_splat(weightsX + ((<usize>i) << 2))))
          if (isMiddle && (i == 2 || i == 3)) {
            low = f32x4.pmin(low, value)
            high = f32x4.pmax(high, value)
          }
        }
      sum = f32x4.add(sum, f32x4.mul(part, f32x4.splat(wy)))
    }
    return held(sum, low, high, this.ring)
  }
}
