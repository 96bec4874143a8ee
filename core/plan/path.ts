// A way through points, and taps along it.
import type { Tap } from './along'

export type Point = readonly [x: number, y: number]
/** Pieces that each stretch between two points is measured in. */
const PIECES = 32

/**
 * Places along the curve that goes through the points (E. Catmull and R. Rom 1974; beyond an end it goes on as before it),
 * so many to each stretch between two.
 */
export function throughPoints(points: readonly Point[], pieces = PIECES): Point[] {
  const last = points.length - 1
  const beyond = ([ax, ay]: Point, [bx, by]: Point): Point => [2 * ax - bx, 2 * ay - by]
  const all = [beyond(points[0]!, points[1]!), ...points, beyond(points[last]!, points[last - 1]!)]
  const found: Point[] = []
  for (let i = 0; i < last; i++)
    for (let k = 0; k < pieces; k++) {
      const t = k / pieces
      const weights = [((2 - t) * t - 1) * t, (3 * t - 5) * t * t + 2, ((4 - 3 * t) * t + 1) * t, (t - 1) * t * t]
      const at = (c: 0 | 1): number => weights.reduce((sum, weight, j) => sum + (weight / 2) * all[i + j]![c], 0)
      found.push([at(0), at(1)])
    }
  found.push(points[last]!)
  return found
}

/** So many places at even distances along a way. */
export function evenly(way: readonly Point[], count: number): Point[] {
  const far = [0]
  for (let i = 1; i < way.length; i++)
    far.push(far[i - 1]! + Math.hypot(way[i]![0] - way[i - 1]![0], way[i]![1] - way[i - 1]![1]))
  const whole = far.at(-1)!
  let at = 1
  return Array.from({ length: count }, (_, i) => {
    const target = (whole * (i + 0.5)) / count
    while (at < way.length - 1 && far[at]! < target) at++
    const t = (target - far[at - 1]!) / Math.max(1e-9, far[at]! - far[at - 1]!)
    const [a, b] = [way[at - 1]!, way[at]!]
    return [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t]
  })
}
export const lengthOf = (way: readonly Point[]): number =>
  way.reduce((sum, [x, y], i) => (i ? sum + Math.hypot(x - way[i - 1]![0], y - way[i - 1]![1]) : 0), 0)

/**
 * What a thing that went along a way leaves of its light, even in time. count: taps. behind: which share of the way it has
 * behind it where it stands in the picture.
 */
export function wayTaps(way: readonly Point[], count: number, behind: number): Tap[] {
  const all = evenly(way, count)
  const [x, y] = evenly(way, 1000)[Math.min(999, Math.max(0, Math.round(behind * 1000 - 0.5)))]!
  return all.map(place => ({ x: x - place[0], y: y - place[1], weight: 1 / count }))
}
