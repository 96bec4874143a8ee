// Arcs and chords against the cubic curve itself, walked in small steps by the Bernstein form.
import { describe, expect, it } from 'vitest'
import { ellipsePoints } from '../../shot/drawn'
import { arcsOf, chordsOf } from './arcs'
import type { Contour, ContourPoint } from './contour'

const AREA = { left: -1000, top: -1000, right: 2000, bottom: 2000 }
const point = (x: number, y: number, more: Partial<ContourPoint> = {}): ContourPoint => ({
  ...{ x, y, inX: 0, inY: 0, outX: 0, outY: 0, radius: 0, outer: 0, inner: 0 },
  ...more,
})
const closed = (...points: ContourPoint[]): Contour => ({ closed: true, points })
const ellipse = closed(
  ...ellipsePoints([10, 20], [410, 260]).map(({ at, in: before = [0, 0], out: after = [0, 0] }) =>
    point(at[0], at[1], { inX: before[0], inY: before[1], outX: after[0], outY: after[1] }),
  ),
)
const CURVES: [string, Contour][] = [
  ['an ellipse', ellipse],
  ['a bend and back', closed(point(0, 0, { outX: 200, outY: -150 }), point(120, 40, { inX: -200, inY: 170 }))],
  ['a loop', closed(point(0, 0, { outX: 300, outY: 200 }), point(60, 0, { inX: -300, inY: 200 }))],
  ['a cusp', closed(point(0, 0, { outX: 100, outY: 100 }), point(100, 0, { inX: -100, inY: 100 }))],
  ['handles drawn in', closed(point(0, 0), point(300, 10, { inX: -290, inY: 60 }), point(150, 200))],
]
const curveAt = ({ points }: Contour, i: number, t: number): [number, number] => {
  const a = points[i]!
  const b = points[(i + 1) % points.length]!
  const s = 1 - t
  const at = (p: number, q: number, r: number, e: number): number =>
    s ** 3 * p + 3 * s * s * t * q + 3 * s * t * t * r + t ** 3 * e
  return [at(a.x, a.x + a.outX, b.x + b.inX, b.x), at(a.y, a.y + a.outY, b.y + b.inY, b.y)]
}

describe.each(CURVES)('%s', (_, contour) => {
  for (const tolerance of [0.1, 0.004]) {
    const { count, ends, circles, points, shares } = arcsOf(contour, tolerance, AREA)
    it(`is met by its arcs to ${tolerance} px, end to end`, () => {
      let worst = 0
      for (let i = 0; i < count; i++) {
        const [ax, ay, bx, by] = ends.subarray(i * 4, i * 4 + 4)
        const [cx, cy, radius] = circles.subarray(i * 3, i * 3 + 3)
        const next = ((i + 1) % count) * 4
        expect([ends[next], ends[next + 1]]).toEqual([bx, by])
        const long = Math.hypot(bx! - ax!, by! - ay!)
        for (let k = 0; k <= 40; k++) {
          const from = shares[i * 2]!
          const [x, y] = curveAt(contour, points[i]!, from + ((shares[i * 2 + 1]! - from) * k) / 40)
          const off =
            radius! > 0
              ? Math.abs(Math.hypot(x - cx!, y - cy!) - radius!)
              : long > 0
                ? Math.abs((x - ax!) * (by! - ay!) - (y - ay!) * (bx! - ax!)) / long
                : Math.hypot(x - ax!, y - ay!)
          worst = Math.max(worst, off)
        }
      }
      // A curve of the third degree may lean a little farther off beside the places that are looked at
      expect(worst).toBeLessThan(tolerance * 1.25)
    })
    it(`and the chords of those by ${tolerance} px more`, () => {
      const chords = chordsOf(arcsOf(contour, 0.0001, AREA), tolerance)
      let worst = 0
      for (let i = 0; i < contour.points.length; i++)
        for (let k = 1; k < 500; k++) {
          const [x, y] = curveAt(contour, i, k / 500)
          let least = Infinity
          for (let j = 0; j < chords.count; j++) {
            const [ax, ay, bx, by] = chords.ends.subarray(j * 4, j * 4 + 4) as unknown as [
              number,
              number,
              number,
              number,
            ]
            const square = (bx - ax) ** 2 + (by - ay) ** 2
            const t = Math.min(1, Math.max(0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / (square || 1)))
            least = Math.min(least, Math.hypot(x - ax - t * (bx - ax), y - ay - t * (by - ay)))
          }
          worst = Math.max(worst, least)
        }
      expect(worst).toBeLessThan(tolerance + 0.0002)
    })
  }
})

it('takes few of them: an ellipse as wide as a picture to a hundredth of a pixel in less than fifty', () => {
  expect(arcsOf(ellipse, 0.01, AREA).count).toBeLessThan(50)
})

it('what is soft at one end only goes evenly along the curve, not along the chord', () => {
  const uneven = closed(point(0, 0, { outX: 5, outY: 40 }), point(200, 0, { inX: -150, inY: 90, outer: 30 }))
  const { count, ends, shares, points } = arcsOf(uneven, 0.01, AREA)
  let worst = 0
  for (let i = 0; i < count; i++) {
    const [ax, ay, bx, by] = ends.subarray(i * 4, i * 4 + 4) as unknown as [number, number, number, number]
    const [from, to] = shares.subarray(i * 2, i * 2 + 2) as unknown as [number, number]
    // A straight way is gone evenly
    for (let k = 1; k < 20 && points[i] === 0; k++) {
      const t = from + ((to - from) * k) / 20
      const [x, y] = curveAt(uneven, points[i]!, t)
      const along = ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / ((bx - ax) ** 2 + (by - ay) ** 2)
      worst = Math.max(worst, 30 * Math.abs(from + (to - from) * along - t))
    }
  }
  expect(worst).toBeLessThan(0.02)
})
