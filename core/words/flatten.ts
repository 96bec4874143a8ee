// Outlines as they are seen: through a projection, cut at the plane of the camera, made straight pieces.
import type { Line } from '../matte/drawn/contour'
import type { Outline } from './outline'

/** Nine numbers, row by row: places of words to pixels; the third is how far before the camera. */
export type Seen = readonly number[]
/** Nearer than this is not before the camera. */
const NEAREST = 1e-3
const DEEPEST = 12

/** Straight pieces no farther than `tolerance` pixels from the outlines. */
export function flattenedBy(outline: Outline, seen: Seen, tolerance: number): Line {
  const ends: number[] = []
  for (const contour of outline) {
    const corners = before(cornersOf(contour, seen, tolerance))
    for (let i = 0; i + 2 < corners.length; i += 3) {
      const j = (i + 3) % corners.length
      ends.push(
        corners[i]! / corners[i + 2]!,
        corners[i + 1]! / corners[i + 2]!,
        corners[j]! / corners[j + 2]!,
        corners[j + 1]! / corners[j + 2]!,
      )
    }
  }
  return { count: ends.length / 4, ends: Float64Array.from(ends) }
}

/** Corners of a contour, three numbers each: as they are projected, not yet divided. */
export function cornersOf(contour: readonly number[], seen: Seen, tolerance: number): number[] {
  const at = (i: number): number[] =>
    [0, 3, 6].map(row => seen[row]! * contour[i]! + seen[row + 1]! * contour[i + 1]! + seen[row + 2]!)
  const out: number[] = []
  let from = at(0)
  out.push(...from)
  for (let i = 2; i + 5 < contour.length; i += 6) {
    const to = at(i + 4)
    halved(from, at(i), at(i + 2), to, tolerance, 0, out)
    from = to
  }
  // It ends where it begins
  return out
}

/**
 * De Casteljau's halves until the handles lie as near to the chord as is asked for, which holds the curve between them
 * wherever all of it is before the camera (a projected Bézier is a rational one with positive weights).
 */
function halved(
  a: readonly number[],
  b: readonly number[],
  c: readonly number[],
  d: readonly number[],
  tolerance: number,
  deep: number,
  out: number[],
): void {
  const all = [a, b, c, d]
  const isBefore = all.every(place => place[2]! > NEAREST)
  const isBehind = all.every(place => place[2]! <= NEAREST)
  if (deep >= DEEPEST || isBehind || (isBefore && isFlat(all, tolerance))) {
    out.push(...d)
    return
  }
  const middle = (p: readonly number[], q: readonly number[]): number[] => p.map((value, i) => (value + q[i]!) / 2)
  const [ab, bc, cd] = [middle(a, b), middle(b, c), middle(c, d)]
  const [abc, bcd] = [middle(ab, bc), middle(bc, cd)]
  const half = middle(abc, bcd)
  halved(a, ab, abc, half, tolerance, deep + 1, out)
  halved(half, bcd, cd, d, tolerance, deep + 1, out)
}
function isFlat(all: readonly (readonly number[])[], tolerance: number): boolean {
  const [a, b, c, d] = all.map(place => [place[0]! / place[2]!, place[1]! / place[2]!] as const)
  const [dx, dy] = [d![0] - a![0], d![1] - a![1]]
  const long = dx * dx + dy * dy
  return [b!, c!].every(handle => {
    const [hx, hy] = [handle[0] - a![0], handle[1] - a![1]]
    const on = long > 0 ? Math.min(1, Math.max(0, (hx * dx + hy * dy) / long)) : 0
    return Math.hypot(hx - dx * on, hy - dy * on) <= tolerance
  })
}

/** What of a closed polygon is before the camera (I. Sutherland and G. Hodgman 1974, for one plane). */
function before(corners: readonly number[]): readonly number[] {
  let isWhole = true
  for (let i = 2; i < corners.length; i += 3) if (!(corners[i]! > NEAREST)) isWhole = false
  if (isWhole) return corners
  const out: number[] = []
  const count = corners.length / 3
  for (let k = 0; k < count; k++) {
    const [i, j] = [k * 3, ((k + 1) % count) * 3]
    const [from, to] = [corners[i + 2]!, corners[j + 2]!]
    if (from > NEAREST) out.push(corners[i]!, corners[i + 1]!, from)
    if (from > NEAREST !== to > NEAREST) {
      const share = (NEAREST - from) / (to - from)
      for (let n = 0; n < 3; n++)
        out.push(n === 2 ? NEAREST : corners[i + n]! + (corners[j + n]! - corners[i + n]!) * share)
    }
  }
  return out
}
