// Places by a projection of the plane.
import { Matrix, solve } from 'ml-matrix'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { splat } from '../../kernels/record'

/** x' = (a x + b y + c) / (g x + h y + i) and so on; what lies behind the horizon is nowhere. */
export const Projected = point(
  'Projected',
  { a: splat, b: splat, c: splat, d: splat, e: splat, f: splat, g: splat, h: splat, i: splat },
  ({ colour: { red: x, green: y, blue }, values: v }) => {
    const under = v.g.times(x).plus(v.h.times(y)).plus(v.i)
    const isThere = under.isAbove(1e-6)
    const over = under.atLeast(1e-6)
    return new Colour(
      v.a.times(x).plus(v.b.times(y)).plus(v.c).over(over),
      v.d.times(x).plus(v.e.times(y)).plus(v.f).over(over),
      isThere.choose(blue, 0),
    )
  },
)

/** Nine numbers, row by row, as it is given them. */
export function pointOf(m: readonly number[]): Record<'a' | 'b' | 'c' | 'd' | 'e' | 'f' | 'g' | 'h' | 'i', number> {
  const [a, b, c, d, e, f, g, h, i] = m as [number, number, number, number, number, number, number, number, number]
  return { a, b, c, d, e, f, g, h, i }
}

type Point = readonly [number, number]
/**
 * The projection that takes four points to four others, by its eight equations (R. Hartley, A. Zisserman, “Multiple View
 * Geometry”, 4.1); undefined where three of either lie on a line.
 */
export function projection(from: readonly Point[], to: readonly Point[]): number[] | undefined {
  const rows: number[][] = []
  const right: number[] = []
  from.forEach(([x, y], i) => {
    const [u, v] = to[i]!
    rows.push([x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y])
    right.push(u, v)
  })
  if (isFlat(from) || isFlat(to)) return undefined
  try {
    const found = [...solve(new Matrix(rows), Matrix.columnVector(right)).to1DArray(), 1]
    return found.every(Number.isFinite) ? found : undefined
  } catch {
    return undefined
  }
}
/** Whether three of four points lie on a line, or the four go round both ways. */
function isFlat(points: readonly Point[]): boolean {
  const turns = points.map(([x, y], i) => {
    const [x1, y1] = points[(i + 1) % 4]!
    const [x2, y2] = points[(i + 2) % 4]!
    return (x1 - x) * (y2 - y1) - (y1 - y) * (x2 - x1)
  })
  return turns.some(turn => Math.abs(turn) < 1e-3) || turns.some(turn => turn > 0) !== turns.every(turn => turn > 0)
}
