/**
 * A drawn line without the places that the rest says within a tolerance in pixels; what is beside the place (pressure) in
 * parts of 50 (D. Douglas, T. Peucker 1973). most: of places that may stay; the tolerance grows until it is so few.
 */
export function thinned<P extends readonly [number, number, number]>(
  points: readonly P[],
  tolerance: number,
  most = Infinity,
): P[] {
  if (points.length < 3) return [...points]
  const kept = new Uint8Array(points.length)
  kept[0] = kept[points.length - 1] = 1
  const spans: [number, number][] = [[0, points.length - 1]]
  while (spans.length) {
    const [from, to] = spans.pop()!
    const [a, b] = [points[from]!, points[to]!]
    let farthest = tolerance
    let which = -1
    for (let i = from + 1; i < to; i++) {
      const far = offLine(points[i]!, a, b)
      if (far > farthest) [farthest, which] = [far, i]
    }
    if (which < 0) continue
    kept[which] = 1
    spans.push([from, which], [which, to])
  }
  const left = points.filter((_, i) => kept[i])
  return left.length > most ? thinned(left, tolerance * 2, most) : left
}
function offLine(
  [x, y, p]: readonly [number, number, number],
  [ax, ay, ap]: readonly [number, number, number],
  [bx, by, bp]: readonly [number, number, number],
): number {
  const [dx, dy] = [bx - ax, by - ay]
  const long = dx * dx + dy * dy
  const t = long > 0 ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / long)) : 0
  return Math.max(Math.hypot(x - ax - t * dx, y - ay - t * dy), Math.abs(p - ap - t * (bp - ap)) * 50)
}
