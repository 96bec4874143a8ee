// A mirrored ray followed through the picture: along its way there, pixel by pixel, by how far away what is seen stands; what is farther
// all over a square of pixels is passed at once.
import { HALF, ONE } from './constants'
import * as L from './layout'
import { Raster } from './raster'

/** Where it ends, as a share of its way, and how far away that is. */
export let endsAt: f32 = 0
export let endsMetres: f32 = 0
/** It met something there, or nothing at all. */
export let isMet: bool = false

/** A little of a pixel, by which one is in the next. */
const INTO: f32 = 0.02


@inline
function exits(from: f32, way: f32, block: i32): f32 {
  const edge = <f32>((way > 0 ? block + 1 : block) * L.WATER_BLOCK)
  return way == 0 ? f32.MAX_VALUE : (edge - from) / way
}
/** How much of its way lies within 0 and an end. */
@inline
function stays(from: f32, way: f32, end: f32): f32 {
  if (way > 0) return (end - from) / way
  return way < 0 ? from / -way : f32.MAX_VALUE
}

/** Distances that differ by less than such a share are of one thing. */
const ALIKE: f32 = 0.04
const FAR_OFF: f32 = 0.1
/** What stands at a place between pixels: straight between the four about it where they are of one thing. */
@inline
function standsAt(depth: Raster, x: f32, y: f32, own: f32, shore: f32): f32 {
  const px = x - HALF
  const py = y - HALF
  const left = <i32>floor<f32>(px)
  const top = <i32>floor<f32>(py)
  if (left < depth.left || top < depth.top || left + 1 >= depth.right || top + 1 >= depth.bottom) return own
  const at = depth.single(left, top)
  const below = at + ((<usize>depth.stride) << 2)
  const a = min<f32>(shore, load<f32>(at))
  const b = min<f32>(shore, load<f32>(at, 4))
  const c = min<f32>(shore, load<f32>(below))
  const d = min<f32>(shore, load<f32>(below, 4))
  const least = min<f32>(min<f32>(a, b), min<f32>(c, d))
  const most = max<f32>(max<f32>(a, b), max<f32>(c, d))
  if (most - least > ALIKE * own) return own
  const fx = px - <f32>left
  const fy = py - <f32>top
  const upper = a + (b - a) * fx
  return upper + (c + (d - c) * fx - upper) * fy
}

/**
 * From a place of the picture, so many metres away, along a way in pixels to so many metres. What it passes behind by more
 * than `thick` it does not meet.
 */
export function follow(
  depth: Raster,
  nearest: Raster,
  x: f32,
  y: f32,
  metres: f32,
  wayX: f32,
  wayY: f32,
  toMetres: f32,
  shore: f32,
  thick: f32,
): void {
  const long = max<f32>(abs<f32>(wayX), abs<f32>(wayY))
  const inverse = ONE / metres
  const change = ONE / toMetres - inverse
  isMet = false
  endsAt = 0
  endsMetres = metres
  if (!(long > 0)) return
  const step = ONE / long
  const width = <f32>depth.right - <f32>0.01
  const height = <f32>depth.bottom - <f32>0.01
  const end = max<f32>(0, min<f32>(ONE, min<f32>(stays(x, wayX, width), stays(y, wayY, height))))
  let t = step
  let before = metres
  // By how much it was before what stands there, a pixel ago, and where that stood
  let ahead: f32 = -1
  let stood: f32 = -1
  while (t < end) {
    const px = x + wayX * t
    const py = y + wayY * t
    const bx = <i32>px / L.WATER_BLOCK
    const by = <i32>py / L.WATER_BLOCK
    const exit = min<f32>(end, min<f32>(exits(x, wayX, bx), exits(y, wayY, by)) + INTO * step)
    const last = ONE / (inverse + change * exit)
    const here = ONE / (inverse + change * t)
    if (max<f32>(here, last) < load<f32>(nearest.single(bx, by))) {
      before = last
      ahead = -1
      t = max<f32>(exit, t + INTO * step)
      continue
    }
    // Pixel by pixel through this square
    do {
      const atX = x + wayX * t
      const atY = y + wayY * t
      const now = ONE / (inverse + change * t)
      const own = min<f32>(
        shore,
        load<f32>(
          depth.single(
            max<i32>(depth.left, min<i32>(depth.right - 1, <i32>atX)),
            max<i32>(depth.top, min<i32>(depth.bottom - 1, <i32>atY)),
          ),
        ),
      )
      // Far before or behind it, it need not be told more exactly
      const stands = abs<f32>(now - own) > FAR_OFF * own ? own : standsAt(depth, atX, atY, own, shore)
      const behind = now - stands
      // Into what it was before of: the slope of that is met, however steep
      const into = ahead >= 0 && abs<f32>(stands - stood) <= ALIKE * stands
      if (behind >= 0 && (into || behind <= thick + abs<f32>(now - before))) {
        // Between the pixel before and this one it goes through what stands there
        const back = into ? behind / max<f32>(<f32>1e-9, behind + ahead) : 0
        endsAt = max<f32>(0, t - step * back)
        endsMetres = ONE / (inverse + change * endsAt)
        isMet = true
        return
      }
      ahead = behind < 0 ? -behind : -1
      stood = stands
      before = now
      t += step
    } while (t < exit)
  }
  // What leaves the picture goes on to the end of its way
  endsAt = ONE
  endsMetres = toMetres
}
