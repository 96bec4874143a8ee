// What the kernel of shapes reads by rows: the edges that cross each, and the pieces that its pixels may have nearest.
// Made in double precision and cut to what is worked on; in plain arrays, since it is made anew at every move of the hand.
import { common, grown, isEmpty, type Box } from '../../engine/box'
import { alongPieces, type Contour, type Line, type Piece } from './contour'
import type { Arcs } from './arcs'
import { CELL, cutTo, NO_CELLS, PIECE, putCircle, putPiece, type Cells } from './tables'

export function flattened(contour: Contour, tolerance: number, near: Box): Line {
  const ends: number[] = []
  alongPieces(contour, tolerance, near, (ax, ay, bx, by) => void ends.push(ax, ay, bx, by))
  return { count: ends.length / 4, ends: Float64Array.from(ends) }
}

/** Edges by the rows that they cross: ax ay bx by; where the list of each row begins; the lists. */
export interface Edges {
  edges: Float32Array
  rows: Float32Array
  list: Float32Array
  /** The rows that there are. */
  top: number
  bottom: number
}
/** The edges of a closed contour within an area. What lies to the left of it counts at its left border. */
export function edgesOf({ count, ends }: Line, { left, top, right, bottom }: Box): Edges {
  const cut: number[] = []
  const put = (ax: number, ay: number, bx: number, by: number): void => {
    if (ay !== by) cut.push(Math.max(left, ax), ay, Math.max(left, bx), by)
  }
  for (let i = 0; i < count; i++) {
    const x0 = ends[i * 4]!
    const y0 = ends[i * 4 + 1]!
    const x1 = ends[i * 4 + 2]!
    const y1 = ends[i * 4 + 3]!
    if (Math.max(y0, y1) <= top || Math.min(y0, y1) >= bottom || Math.min(x0, x1) >= right) continue
    const slope = (x1 - x0) / (y1 - y0)
    let ax = x0
    let ay = y0
    let bx = x1
    let by = y1
    if (ay < top || ay > bottom) {
      ay = ay < top ? top : bottom
      ax = x0 + (ay - y0) * slope
    }
    if (by < top || by > bottom) {
      by = by < top ? top : bottom
      bx = x0 + (by - y0) * slope
    }
    if (ax < left !== bx < left) {
      const y = y0 + ((left - x0) / (x1 - x0)) * (y1 - y0)
      put(ax, ay, left, y)
      put(left, y, bx, by)
    } else put(ax, ay, bx, by)
  }
  const edges = Float32Array.from(cut)
  const found = edges.length / 4
  const begins = new Int32Array(found)
  const stops = new Int32Array(found)
  let first = Infinity
  let last = -Infinity
  for (let i = 0; i < found; i++) {
    begins[i] = Math.floor(Math.min(edges[i * 4 + 1]!, edges[i * 4 + 3]!))
    stops[i] = Math.ceil(Math.max(edges[i * 4 + 1]!, edges[i * 4 + 3]!))
    first = Math.min(first, begins[i]!)
    last = Math.max(last, stops[i]!)
  }
  if (!(first < last)) return { edges, rows: new Float32Array(1), list: new Float32Array(1), top, bottom: top }
  return { edges, ...byRows(begins, stops, first, last), top: first, bottom: last }
}

/** What goes from a row to before another each, told by rows: where each row's list begins, and the lists in order. */
function byRows(
  begins: Int32Array,
  stops: Int32Array,
  first: number,
  last: number,
): { rows: Float32Array; list: Float32Array } {
  const rows = new Float32Array(last - first + 1)
  for (let i = 0; i < begins.length; i++)
    for (let y = begins[i]! - first, to = stops[i]! - first; y < to; y++) rows[y + 1]! += 1
  for (let y = 1; y < rows.length; y++) rows[y]! += rows[y - 1]!
  const list = new Float32Array(Math.max(1, rows[rows.length - 1]!))
  const next = Int32Array.from(rows)
  for (let i = 0; i < begins.length; i++)
    for (let y = begins[i]! - first, to = stops[i]! - first; y < to; y++) list[next[y]!++] = i
  return { rows, list }
}

/** How far from itself a contour is of account: a soft edge is a little wider than it says (ramp in the kernels). */
export const reachOf = ({ points }: Contour): number =>
  points.reduce((most, { outer, inner }) => Math.max(most, outer, inner), 0) + 0.5
/**
 * How far pieces may reach at most that are told by rows, each row's in the order in which they begin: what lies near a
 * pixel is a short run of them then. Farther, cells leave less to look at.
 */
export const ROWS_REACH = 40
/** The arcs of a closed contour by the rows that they reach: one cell a row, as wide as they are. reach: from their chords. */
export function rowsOf(arcs: Arcs, contour: Contour, area: Box, reach: number): Cells {
  const { count, ends, circles, points, shares } = arcs
  const room = grown(area, Math.ceil(reach) + CELL)
  const { left, right } = room
  const held = new Int32Array(count)
  const begins = new Int32Array(count)
  const stops = new Int32Array(count)
  const lefts = new Int32Array(count)
  const box: Box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity }
  let found = 0
  for (let i = 0; i < count; i++) {
    const ax = ends[i * 4]!
    const ay = ends[i * 4 + 1]!
    const bx = ends[i * 4 + 2]!
    const by = ends[i * 4 + 3]!
    const least = Math.floor(Math.min(ax, bx) - reach)
    const most = Math.ceil(Math.max(ax, bx) + reach)
    const high = Math.floor(Math.min(ay, by) - reach)
    const low = Math.ceil(Math.max(ay, by) + reach)
    if (most <= area.left || least >= area.right || low <= area.top || high >= area.bottom) continue
    box.left = Math.min(box.left, least)
    box.top = Math.min(box.top, high)
    box.right = Math.max(box.right, most)
    box.bottom = Math.max(box.bottom, low)
    held[found] = i
    begins[found] = Math.max(area.top, high)
    stops[found] = Math.min(area.bottom, low)
    // As the piece will be cut
    lefts[found] = Math.max(left, least)
    found++
  }
  const within = common(area, box)
  if (!found || isEmpty(within)) return NO_CELLS
  const order = inOrderOf(lefts.subarray(0, found), left, right)
  const { points: corners } = contour
  const pieces = new Float32Array(found * PIECE)
  const ownBegins = new Int32Array(found)
  const ownStops = new Int32Array(found)
  for (let k = 0; k < found; k++) {
    const from = order[k]!
    const i = held[from]!
    const a = corners[points[i]!]!
    const b = corners[(points[i]! + 1) % corners.length]!
    const start = shares[i * 2]!
    const end = shares[i * 2 + 1]!
    const between = (one: number, other: number): [number, number] => [
      one + (other - one) * start,
      one + (other - one) * end,
    ]
    const piece: Piece = {
      ax: ends[i * 4]!,
      ay: ends[i * 4 + 1]!,
      bx: ends[i * 4 + 2]!,
      by: ends[i * 4 + 3]!,
      radius: between(a.radius, b.radius),
      outer: between(a.outer, b.outer),
      inner: between(a.inner, b.inner),
    }
    if (circles[i * 3 + 2]! > 0) {
      putPiece(pieces, k * PIECE, piece)
      putCircle(pieces, k * PIECE, circles, i * 3)
    } else putPiece(pieces, k * PIECE, cutTo(piece, room))
    ownBegins[k] = begins[from]!
    ownStops[k] = stops[from]!
  }
  return {
    ...byRows(ownBegins, ownStops, within.top, within.bottom),
    ...{
      pieces,
      left: within.left,
      top: within.top,
      columns: within.right - within.left,
      lines: within.bottom - within.top,
    },
  }
}
/** Which comes where when they stand in the order of their numbers, all from `least` to before `most`. */
function inOrderOf(numbers: Int32Array, least: number, most: number): Int32Array {
  const next = new Int32Array(most - least + 1)
  for (const number of numbers) next[number - least + 1]! += 1
  for (let i = 1; i < next.length; i++) next[i]! += next[i - 1]!
  const order = new Int32Array(numbers.length)
  numbers.forEach((number, i) => {
    order[next[number - least]!++] = i
  })
  return order
}
