// A way through points, and taps along it.
import type { Tap } from './along'

export type Point = readonly [x: number, y: number]
/** Pieces that each stretch between two points is measured in. */
const PIECES = 32

/**
 * Places along the curve that goes through the points (E. Catmull and R. Rom 1974; beyond an end it goes on as before it),
 * so many to each stretch between two.
 */
export function throughPoints(points: readonly Point[]): Point[] {
  const last = points.length - 1
  const beyond = ([ax, ay]: Point, [bx, by]: Point): Point => [2 * ax - bx, 2 * ay - by]
  const all = [beyond(points[0]!, points[1]!), ...points, beyond(points[last]!, points[last - 1]!)]
  const found: Point[] = []
  for (let i = 0; i < last; i++)
    for (let k = 0; k < PIECES; k++) {
      const t = k / PIECES
      const weights = [((2 - t) * t - 1) * t, (3 * t - 5) * t * t + 2, ((4 - 3 * t) * t + 1) * t, (t - 1) * t * t]
      const at = (c: 0 | 1): number => weights.reduce((sum, weight, j) => sum + (weight / 2) * all[i + j]![c], 0)
      found.push([at(0), at(1)])
    }
  found.push(points[last]!)
  return found
}

/** How far along a way each of its places lies. */
const distancesOf = (way: readonly Point[]): number[] => {
  const far = [0]
  for (let i = 1; i < way.length; i++)
    far.push(far[i - 1]! + Math.hypot(way[i]![0] - way[i - 1]![0], way[i]![1] - way[i - 1]![1]))
  return far
}
export const lengthOf = (way: readonly Point[]): number => distancesOf(way).at(-1)!

/**
 * What a thing that went along a way leaves of its light, even in time. count: taps. behind: which share of the way it has
 * behind it where it stands in the picture.
 */
export function wayTaps(way: readonly Point[], count: number, behind: number): Tap[] {
  const far = distancesOf(way)
  const placeAt = (share: number): Point => {
    const target = far.at(-1)! * share
    const next = far.findIndex((distance, i) => i > 0 && distance >= target)
    const [from, to] = [way[next - 1]!, way[next]!]
    const t = (target - far[next - 1]!) / Math.max(1e-9, far[next]! - far[next - 1]!)
    return [from[0] + (to[0] - from[0]) * t, from[1] + (to[1] - from[1]) * t]
  }
  const [x, y] = placeAt(behind)
  return Array.from({ length: count }, (_, i) => {
    const [atX, atY] = placeAt((i + 0.5) / count)
    return { x: x - atX, y: y - atY, weight: 1 / count }
  })
}
