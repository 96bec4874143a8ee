// A line drawn roughly along an edge of the picture, laid exactly on it. The edge is where the difference across the
// line, summed along all of it, is strongest: noise of single pixels averages out, so a long edge is met to a small
// part of a pixel. Differences are taken on displayed-like values (a square root of light), so that dark edges count as
// the eye sees them.
import { luminanceAt } from '../colour/luminance'

export interface SnapResult {
  from: [number, number]
  to: [number, number]
  /** Mean step across the edge over its own scatter; below about 4 there is nothing to hold to. */
  clearness: number
}

/** A grey picture to look for edges in, from scene-linear RGBA. */
export function edgePicture(rgba: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(width * height)
  for (let i = 0; i < out.length; i++) out[i] = Math.sqrt(Math.max(0, luminanceAt(rgba, i * 4)))
  return out
}

/** Steps along the line at most; longer lines are sampled more thinly. */
const MOST_STEPS = 1200
/** The least that counts as an edge (see `clearness`), and the least length in pixels. */
export const CLEAR = 4
const SHORTEST = 12
const BESIDE = 3

/**
 * The line moved at both ends, across itself, by `reach` pixels at most. undefined when no edge stands out there, or
 * the line leaves the picture or is shorter than 12 pixels. Pixel centres lie at halves. Ends keep their place along
 * the line.
 */
export function snapLine(
  picture: Float32Array,
  width: number,
  height: number,
  from: readonly [number, number],
  to: readonly [number, number],
  reach = 4,
): SnapResult | undefined {
  const long = Math.hypot(to[0] - from[0], to[1] - from[1])
  if (!(long >= SHORTEST)) return undefined
  const nx = -(to[1] - from[1]) / long
  const ny = (to[0] - from[0]) / long
  const steps = Math.min(MOST_STEPS, Math.ceil(long))
  const inset = 0.03
  const at = (x: number, y: number): number => {
    const px = x - 0.5
    const py = y - 0.5
    const ix = Math.floor(px)
    const iy = Math.floor(py)
    if (ix < 0 || iy < 0 || ix >= width - 1 || iy >= height - 1) return NaN
    const fx = px - ix
    const fy = py - iy
    const i = iy * width + ix
    return (
      (picture[i]! * (1 - fx) + picture[i + 1]! * fx) * (1 - fy) +
      (picture[i + width]! * (1 - fx) + picture[i + width + 1]! * fx) * fy
    )
  }
  /** Sum of the step across over the line with its ends moved by a and b. */
  const score = (a: number, b: number): { mean: number; clearness: number } => {
    let sum = 0
    let squares = 0
    let count = 0
    for (let k = 0; k < steps; k++) {
      const t = inset + ((1 - 2 * inset) * (k + 0.5)) / steps
      const off = a + (b - a) * t
      const x = from[0] + (to[0] - from[0]) * t + nx * off
      const y = from[1] + (to[1] - from[1]) * t + ny * off
      const step =
        at(x + nx * 0.5, y + ny * 0.5) +
        at(x + nx * 1.25, y + ny * 1.25) -
        at(x - nx * 0.5, y - ny * 0.5) -
        at(x - nx * 1.25, y - ny * 1.25)
      if (Number.isNaN(step)) continue
      sum += step
      squares += step * step
      count++
    }
    if (count < steps * 0.7) return { mean: 0, clearness: 0 }
    const mean = sum / count
    const scatter = Math.sqrt(Math.max(1e-12, squares / count - mean * mean) / count)
    return { mean, clearness: Math.abs(mean) / scatter }
  }
  let best = { a: 0, b: 0, mean: 0 }
  for (let a = -reach; a <= reach; a++) {
    for (let b = -reach; b <= reach; b++) {
      // Nearer edges are meant rather than farther ones, by a little
      const mean = Math.abs(score(a, b).mean) * (1 - (0.25 * Math.max(Math.abs(a), Math.abs(b))) / reach)
      if (mean > best.mean) best = { a, b, mean }
    }
  }
  if (!best.mean) return undefined
  // Then finer and finer around it
  let { a, b } = best
  let top = Math.abs(score(a, b).mean)
  for (let size = 0.5; size > 0.01; size /= 2) {
    for (let moved = true, rounds = 0; moved && rounds < 12; rounds++) {
      moved = false
      for (const [da, db] of [
        [1, 1],
        [-1, -1],
        [1, 0],
        [-1, 0],
        [0, 1],
        [0, -1],
        [1, -1],
        [-1, 1],
      ] as const) {
        const mean = Math.abs(score(a + da * size, b + db * size).mean)
        if (mean > top) {
          top = mean
          a += da * size
          b += db * size
          moved = true
        }
      }
    }
  }
  const { clearness, mean } = score(a, b)
  // An even slope is steep everywhere: an edge is steeper than what lies beside it
  for (const side of [-BESIDE, BESIDE])
    if (score(a + side, b + side).mean * Math.sign(mean) > top * 0.7) return undefined
  if (clearness < CLEAR || Math.max(Math.abs(a), Math.abs(b)) > reach + 1) return undefined
  return { from: [from[0] + nx * a, from[1] + ny * a], to: [to[0] + nx * b, to[1] + ny * b], clearness }
}
