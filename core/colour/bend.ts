// Curves through points, smooth and never beyond what lies between them: monotone cubics (F. N. Fritsch, R. E. Carlson,
// "Monotone Piecewise Cubic Interpolation", SIAM J. Numer. Anal. 17 (1980), 238; their sufficient circle of radius 3).
export type BendPoint = readonly [number, number]

/** Points by their place, each place once: the last said counts. */
function sorted(points: readonly BendPoint[]): BendPoint[] {
  const places = new Map(points.map(([x, y]) => [x, y]))
  return [...places].sort(([a], [b]) => a - b)
}

/** The value at a place; beyond the points on as they end. Of no points the place itself, of one what that adds to it. */
export function bend(points: readonly BendPoint[]): (x: number) => number {
  const all = sorted(points)
  if (!all.length) return x => x
  if (all.length === 1) return x => x + all[0]![1] - all[0]![0]
  const secants = all.slice(1).map(([x, y], i) => (y - all[i]![1]) / (x - all[i]![0]))
  const slopes = all.map((_, i) => {
    if (i === 0) return secants[0]!
    if (i === all.length - 1) return secants.at(-1)!
    const [before, after] = [secants[i - 1]!, secants[i]!]
    return before * after <= 0 ? 0 : (before + after) / 2
  })
  secants.forEach((secant, i) => {
    if (secant === 0) {
      slopes[i] = 0
      slopes[i + 1] = 0
      return
    }
    const a = slopes[i]! / secant
    const b = slopes[i + 1]! / secant
    const far = Math.hypot(a, b)
    if (far <= 3) return
    slopes[i] = (3 / far) * a * secant
    slopes[i + 1] = (3 / far) * b * secant
  })
  return x => {
    const [first, last] = [all[0]!, all.at(-1)!]
    if (x <= first[0]) return first[1] + (x - first[0]) * slopes[0]!
    if (x >= last[0]) return last[1] + (x - last[0]) * slopes.at(-1)!
    const i = all.findIndex(([at], k) => k > 0 && x < at) - 1
    const [x0, y0] = all[i]!
    const [x1, y1] = all[i + 1]!
    const wide = x1 - x0
    const t = (x - x0) / wide
    const s = 1 - t
    return (
      y0 * (1 + 2 * t) * s * s + y1 * t * t * (3 - 2 * t) + wide * (slopes[i]! * t * s * s - slopes[i + 1]! * t * t * s)
    )
  }
}
/** The same of points on a circle of so many, where its end is its beginning. Of one point its value everywhere. */
export function roundBend(points: readonly BendPoint[], period: number): (x: number) => number {
  const held = (x: number): number => ((x % period) + period) % period
  const once = sorted(points.map(([x, y]): BendPoint => [held(x), y]))
  const at = bend([-period, 0, period].flatMap(turn => once.map(([x, y]): BendPoint => [x + turn, y])))
  return x => at(held(x))
}
/** Whether it leaves every place where it is. */
export const isStraight = (points: readonly BendPoint[]): boolean => points.every(([x, y]) => x === y)

/** So many values of it, evenly from a place to another. */
export function bendTable(points: readonly BendPoint[], from: number, to: number, count: number): Float32Array {
  const at = bend(points)
  return Float32Array.from({ length: count }, (_, i) => at(from + ((to - from) * i) / (count - 1)))
}
