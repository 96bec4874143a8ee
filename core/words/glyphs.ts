// Outlines of glyphs as contours that do not lie over each other: where parts of a letter overlap, as those of fonts of
// any weight do, a border within it would show at its edges.
import ClipperLib, { type IntPoint } from 'clipper-lib'
import type { SetGlyph } from '../formats/font/font'
import { cornersOf, type Seen } from './flatten'

/** Closed contours of a glyph: each its first place, then cubic Béziers as three places each; ems, y up. */
export type Contours = readonly number[][]

/** Whole parts of an em that clipping counts in. */
const PARTS = 2 ** 24
/** Ems that straight pieces may be off a curve, where contours have to be cut: of letters 2000 pixels tall a sixteenth of one. */
const FINE = 2 ** -15
/** How finely one looks whether they have to be. */
const COARSE = 2 ** -9
/** Overlaps of less than this, square ems, come of that. */
const OVERLAP = 1e-5
const AS_IT_IS: Seen = [1, 0, 0, 0, 1, 0, 0, 0, 1]

const known = new WeakMap<SetGlyph['path'], Contours>()
export function contoursOf({ path, scale }: Pick<SetGlyph, 'path' | 'scale'>): Contours {
  const found = known.get(path) ?? alone(drawn(path, scale))
  known.set(path, found)
  return found
}

function drawn(path: SetGlyph['path'], scale: number): number[][] {
  const contours: number[][] = []
  let own: number[] = []
  let [x, y] = [0, 0]
  const cubic = (...ends: readonly number[]): void => {
    own.push(...ends.slice(0, 6).map(value => value * scale))
    ;[x, y] = [ends[4]!, ends[5]!]
  }
  for (const { type, values } of path) {
    const [a = 0, b = 0, c = 0, d = 0] = values
    if (type === 'M') {
      own = [a * scale, b * scale]
      contours.push(own)
      ;[x, y] = [a, b]
    } else if (type === 'L') cubic(...straight(x, y, a, b))
    else if (type === 'Q')
      // A parabola as a cubic: its handles are two thirds of the way to its one
      cubic((x + 2 * a) / 3, (y + 2 * b) / 3, (c + 2 * a) / 3, (d + 2 * b) / 3, c, d)
    else if (type === 'C') cubic(...values)
  }
  return contours.filter(({ length }) => length > 2)
}
const straight = (x: number, y: number, a: number, b: number): number[] => [
  (2 * x + a) / 3,
  (2 * y + b) / 3,
  (x + 2 * a) / 3,
  (y + 2 * b) / 3,
  a,
  b,
]

const polygonsOf = (contours: Contours, tolerance: number): IntPoint[][] =>
  contours.map(contour => {
    const corners = cornersOf(contour, AS_IT_IS, tolerance)
    return Array.from({ length: corners.length / 3 }, (_, i) => ({
      X: Math.round(corners[i * 3]! * PARTS),
      Y: Math.round(corners[i * 3 + 1]! * PARTS),
    }))
  })
/** What they turn round (B. Vatti 1992), as contours beside and within each other. */
const united = (polygons: IntPoint[][]): IntPoint[][] =>
  ClipperLib.Clipper.SimplifyPolygons(polygons, ClipperLib.PolyFillType.pftNonZero)
const areaOf = (polygons: readonly IntPoint[][]): number =>
  polygons.reduce((sum, one) => sum + ClipperLib.Clipper.Area(one), 0) / PARTS ** 2

/** All of them turn the same way round, as what clipping gives does: what two of them cover of one pixel adds up. */
function alone(contours: number[][]): Contours {
  const coarse = polygonsOf(contours, COARSE)
  const area = areaOf(coarse)
  if (Math.abs(Math.abs(area) - areaOf(united(coarse))) < OVERLAP)
    return area < 0 ? contours.map(turnedRound) : contours
  return united(polygonsOf(contours, FINE)).map(polygon => {
    const places = polygon.map(({ X, Y }) => [X / PARTS, Y / PARTS] as const)
    const [x0, y0] = places[0]!
    return [
      x0,
      y0,
      ...places.flatMap(([x, y], i) => {
        const [a, b] = places[(i + 1) % places.length]!
        return straight(x, y, a, b)
      }),
    ]
  })
}

function turnedRound(contour: readonly number[]): number[] {
  const out: number[] = []
  for (let i = contour.length - 2; i >= 0; i -= 2) out.push(contour[i]!, contour[i + 1]!)
  return out
}
