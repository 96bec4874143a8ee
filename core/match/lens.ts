// Radial distortion of a lens: D. C. Brown, "Close-range camera calibration" (1971), its first two radial terms. Radii
// are counted in half widths of the frame from its middle: a straight place s is seen at the bent place s (1 + k1 s² +
// k2 s⁴).
import { BadInput } from '../formats/errors'
import { leastSquares } from './least'

export interface Lens {
  k1: number
  k2: number
}
export interface FrameSize {
  width: number
  height: number
}
type Pixel = readonly [number, number]

const factor = ({ k1, k2 }: Lens, r2: number): number => 1 + r2 * (k1 + r2 * k2)

/** Where a straight place is seen through the lens. Pixels of the frame. */
export function bend(lens: Lens, { width, height }: FrameSize, [x, y]: Pixel): [number, number] {
  const h = width / 2
  const px = (x - h) / h
  const py = (y - height / 2) / h
  const f = factor(lens, px * px + py * py)
  return [px * f * h + h, py * f * h + height / 2]
}

/** The straight radius from which on a lens bends back: nothing beyond it is seen. */
function turningRadius({ k1, k2 }: Lens): number {
  // Least positive root of 1 + 3 k1 q + 5 k2 q² in q = s²
  const roots =
    k2 === 0 ? [-1 / (3 * k1)] : [-1, 1].map(sign => (-3 * k1 + sign * Math.sqrt(9 * k1 * k1 - 20 * k2)) / (10 * k2))
  const positive = roots.filter(root => root > 0)
  return positive.length ? Math.sqrt(Math.min(...positive)) : Infinity
}

/**
 * The straight place of something seen through the lens; by Newton's method on the radius. What lies farther out than
 * the lens bends anything to is at the farthest place that is seen.
 */
export function straighten(lens: Lens, { width, height }: FrameSize, [x, y]: Pixel): [number, number] {
  const h = width / 2
  const px = (x - h) / h
  const py = (y - height / 2) / h
  const r = Math.hypot(px, py)
  if (r < 1e-12) return [x, y]
  const farthest = turningRadius(lens)
  let s = Math.min(r, farthest)
  if (farthest * factor(lens, farthest * farthest) <= r) s = farthest
  else
    for (let i = 0; i < 30; i++) {
      const s2 = s * s
      const step = (s * factor(lens, s2) - r) / Math.max(0.05, 1 + s2 * (3 * lens.k1 + 5 * s2 * lens.k2))
      s = Math.min(farthest, Math.max(0, s - step))
      if (Math.abs(step) < 1e-13) break
    }
  return [((px * s) / r) * h + h, ((py * s) / r) * h + height / 2]
}

/** Terms for radii over the focal length (as other tools count them) from ours, and back. focal in pixels. */
export const lensOverFocal = ({ k1, k2 }: Lens, width: number, focal: number): Lens => {
  const q = (focal / (width / 2)) ** 2
  return { k1: k1 * q, k2: k2 * q * q }
}
export const lensFromFocal = ({ k1, k2 }: Lens, width: number, focal: number): Lens => {
  const q = (width / 2 / focal) ** 2
  return { k1: k1 * q, k2: k2 * q * q }
}

/**
 * The straight frame on which one works, large enough that nothing of the bent one is missing: its size, and the bent
 * frame's corner in it.
 */
export interface Overscan {
  width: number
  height: number
  left: number
  top: number
}
const MOST_OVERSCAN = 0.5
export function overscanOf(lens: Lens | undefined, { width, height }: FrameSize): Overscan {
  if (!lens || (lens.k1 === 0 && lens.k2 === 0)) return { width, height, left: 0, top: 0 }
  let left = 0
  let top = 0
  for (let i = 0; i <= 32; i++) {
    const t = i / 32
    for (const place of [
      [t * width, 0],
      [0, t * height],
    ] as const) {
      const [x, y] = straighten(lens, { width, height }, place)
      left = Math.max(left, -x)
      top = Math.max(top, -y)
    }
  }
  // In steps of four, so that smaller versions fall on whole pixels
  const even = (value: number, side: number): number => Math.ceil(Math.min(value, side * MOST_OVERSCAN) / 4) * 4
  const l = even(left, width)
  const t = even(top, height)
  return { width: width + 2 * l, height: height + 2 * t, left: l, top: t }
}

export interface LensSolution extends Lens {
  /** Farthest place from its straight line, pixels, a curve. */
  errors: number[]
  rms: number
}

/**
 * The lens under which places along straight things lie on straight lines. second: solves k2 too. Throws BadInput with
 * what is missing.
 */
export function solveLens(curves: readonly (readonly Pixel[])[], frame: FrameSize, second = false): LensSolution {
  const used = curves.filter(points => points.length >= 3)
  if (!used.length)
    throw new BadInput('Draw along something straight with three places at least: its ends and one between.')
  const middle: Pixel = [frame.width / 2, frame.height / 2]
  const half = frame.width / 2
  const reach = Math.max(...used.flat().map(([x, y]) => Math.hypot(x - middle[0], y - middle[1])))
  if (reach < half * 0.3)
    throw new BadInput(
      'These lines lie in the middle of the picture, where a lens hardly bends: use edges near its border.',
    )
  const offsets = (lens: Lens): number[][] =>
    used.map(points => {
      // Total least squares: distances from the line of the greatest spread
      const straight = points.map(point => straighten(lens, frame, point))
      const n = straight.length
      const cx = straight.reduce((sum, p) => sum + p[0], 0) / n
      const cy = straight.reduce((sum, p) => sum + p[1], 0) / n
      let xx = 0
      let xy = 0
      let yy = 0
      for (const [x, y] of straight) {
        xx += (x - cx) ** 2
        xy += (x - cx) * (y - cy)
        yy += (y - cy) ** 2
      }
      const angle = Math.atan2(2 * xy, xx - yy) / 2
      const nx = -Math.sin(angle)
      const ny = Math.cos(angle)
      return straight.map(([x, y]) => (x - cx) * nx + (y - cy) * ny)
    })
  const lensOf = (values: readonly number[]): Lens => ({ k1: values[0]!, k2: second ? values[1]! : 0 })
  // A line through the middle says nothing; without any bend to measure the terms stay open
  const bare = offsets({ k1: 0, k2: 0 })
  const moved = offsets({ k1: 0.05, k2: 0 })
  if (Math.max(...bare.map((list, i) => Math.max(...list.map((value, k) => Math.abs(value - moved[i]![k]!))))) < 0.02)
    throw new BadInput(
      'These lines run through the middle of the picture, where a lens does not bend them: use edges beside it.',
    )
  const found = leastSquares(
    second ? [0, 0] : [0],
    values => offsets(lensOf(values)).flat(),
    second ? [0.1, 0.1] : [0.1],
  )
  const lens = lensOf(found.values)
  if (!(Math.abs(lens.k1) < 1.5 && Math.abs(lens.k2) < 1.5))
    throw new BadInput('No lens bends like this: check that each line follows one straight edge.')
  const errors = offsets(lens).map(list => Math.max(...list.map(Math.abs)))
  const all = offsets(lens).flat()
  return { ...lens, errors, rms: Math.sqrt(all.reduce((sum, value) => sum + value * value, 0) / all.length) }
}
