// What the kernels of drawn mattes read: the straight pieces of contours, which of them cross a row, and which of them
// a small cell of the picture may have nearest. Made in double precision and cut to what is worked on, so that a point
// far off the picture costs no accuracy on it.
import { common, grown, isEmpty, type Box } from '../../engine/box'
import { alongPieces, type Contour, type Piece } from './contour'

/** Pixels of a cell's side. */
const CELL = 8
/** Floats of a piece: a, b - a, 1 / length², radius, outer and inner at a and what they gain as far as b, its stroke. */
export const PIECE = 12

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
export function edgesOf(contour: Contour, tolerance: number, area: Box): Edges {
  const { left, top, right, bottom } = area
  const cut: number[] = []
  const put = (ax: number, ay: number, bx: number, by: number): void => {
    if (ay !== by) cut.push(Math.max(left, ax), ay, Math.max(left, bx), by)
  }
  alongPieces(contour, tolerance, area, (x0, y0, x1, y1) => {
    let [ax, ay, bx, by] = [x0, y0, x1, y1]
    if (Math.max(ay, by) <= top || Math.min(ay, by) >= bottom || Math.min(ax, bx) >= right) return
    const alongX = (y: number): number => x0 + ((y - y0) / (y1 - y0)) * (x1 - x0)
    if (ay < top) [ax, ay] = [alongX(top), top]
    else if (ay > bottom) [ax, ay] = [alongX(bottom), bottom]
    if (by < top) [bx, by] = [alongX(top), top]
    else if (by > bottom) [bx, by] = [alongX(bottom), bottom]
    if (ax < left !== bx < left) {
      const y = y0 + ((left - x0) / (x1 - x0)) * (y1 - y0)
      put(ax, ay, left, y)
      put(left, y, bx, by)
    } else put(ax, ay, bx, by)
  })
  const edges = Float32Array.from(cut)
  let first = Infinity
  let last = -Infinity
  for (let i = 1; i < edges.length; i += 2) {
    first = Math.min(first, Math.floor(edges[i]!))
    last = Math.max(last, Math.ceil(edges[i]!))
  }
  if (!(first < last)) return { edges, rows: new Float32Array(1), list: new Float32Array(1), top, bottom: top }
  const lists: number[][] = Array.from({ length: last - first }, () => [])
  for (let i = 0; i < edges.length / 4; i++) {
    const [a, b] = [edges[i * 4 + 1]!, edges[i * 4 + 3]!]
    for (let y = Math.floor(Math.min(a, b)); y < Math.ceil(Math.max(a, b)); y++) lists[y - first]!.push(i)
  }
  return { edges, ...joined(lists), top: first, bottom: last }
}

/** Which pieces may be the nearest of a cell's pixels, or reach them; lists of those that none does are empty. */
export interface Cells {
  pieces: Float32Array
  rows: Float32Array
  list: Float32Array
  /** The grid: its first pixel, and how many cells. */
  left: number
  top: number
  columns: number
  lines: number
}
/** A piece with which of the strokes it is of. */
interface StrokePiece extends Piece {
  stroke: number
}
const NONE: readonly number[] = []
const reachOf = ({ radius, outer, inner }: Piece): number =>
  Math.max(radius[0] + outer[0], radius[1] + outer[1], inner[0], inner[1]) + 1

/** Cells to a side of a block, which pieces are first told to: one, where they do not reach far, is less to look at. */
const blockOf = (farthest: number): number => (farthest <= 40 ? 1 : 8)
/**
 * Cells over all that pieces reach within an area: pieces are told to blocks, those to quarters of quarters. nearest:
 * only the nearest piece of a pixel counts; else all that reach it.
 */
export function cellsOf(pieces: readonly StrokePiece[], area: Box, nearest: boolean): Cells {
  const reaches = Float64Array.from(pieces, reachOf)
  // Beginning, way and 1 / length² of each
  const courses = new Float64Array(pieces.length * 5)
  const box: Box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity }
  let farthest = 0
  pieces.forEach(({ ax, ay, bx, by }, i) => {
    const reach = reaches[i]!
    const [dx, dy] = [bx - ax, by - ay]
    const long = dx * dx + dy * dy
    courses[i * 5] = ax
    courses[i * 5 + 1] = ay
    courses[i * 5 + 2] = dx
    courses[i * 5 + 3] = dy
    courses[i * 5 + 4] = long > 0 ? 1 / long : 0
    farthest = Math.max(farthest, reach)
    box.left = Math.min(box.left, Math.floor(Math.min(ax, bx) - reach))
    box.top = Math.min(box.top, Math.floor(Math.min(ay, by) - reach))
    box.right = Math.max(box.right, Math.ceil(Math.max(ax, bx) + reach))
    box.bottom = Math.max(box.bottom, Math.ceil(Math.max(ay, by) + reach))
  })
  const within = common(area, box)
  if (!pieces.length || isEmpty(within))
    return { ...joined([]), pieces: new Float32Array(PIECE), left: 0, top: 0, columns: 0, lines: 0 }
  const { left, top } = within
  const columns = Math.ceil((within.right - left) / CELL)
  const lines = Math.ceil((within.bottom - top) / CELL)
  const lists: (readonly number[])[] = new Array<readonly number[]>(columns * lines).fill(NONE)
  const far = (i: number, x: number, y: number): number => {
    const at = i * 5
    const rx = x - courses[at]!
    const ry = y - courses[at + 1]!
    const dx = courses[at + 2]!
    const dy = courses[at + 3]!
    const t = Math.min(1, Math.max(0, (rx * dx + ry * dy) * courses[at + 4]!))
    const ex = rx - t * dx
    const ey = ry - t * dy
    return Math.sqrt(ex * ex + ey * ey)
  }
  const visit = (column: number, line: number, size: number, held: readonly number[]): void => {
    if (column >= columns || line >= lines) return
    const half = (size * CELL) / 2
    const [x, y] = [left + column * CELL + half, top + line * CELL + half]
    const diagonal = half * Math.SQRT2
    const away = new Float64Array(held.length)
    let most = farthest
    for (let k = 0; k < held.length; k++) {
      away[k] = far(held[k]!, x, y)
      if (nearest && away[k]! + diagonal < most) most = away[k]! + diagonal
    }
    const kept: number[] = []
    for (let k = 0; k < held.length; k++)
      if (away[k]! <= (nearest ? most : reaches[held[k]!]!) + diagonal) kept.push(held[k]!)
    if (!kept.length) return
    if (size === 1) {
      lists[line * columns + column] = kept
      return
    }
    const next = size / 2
    for (let k = 0; k < 4; k++) visit(column + (k & 1) * next, line + (k >> 1) * next, next, kept)
  }
  const block = blockOf(farthest)
  const side = CELL * block
  const across = Math.ceil(columns / block)
  const down = Math.ceil(lines / block)
  const blocks = new Array<number[] | undefined>(across * down).fill(undefined)
  for (let i = 0; i < pieces.length; i++) {
    const { ax, ay, bx, by } = pieces[i]!
    const reach = nearest ? farthest : reaches[i]!
    const first = Math.max(0, Math.floor((Math.min(ax, bx) - reach - left) / side))
    const last = Math.min(across - 1, Math.floor((Math.max(ax, bx) + reach - left) / side))
    const under = Math.min(down - 1, Math.floor((Math.max(ay, by) + reach - top) / side))
    for (let line = Math.max(0, Math.floor((Math.min(ay, by) - reach - top) / side)); line <= under; line++)
      for (let key = line * across + first; key <= line * across + last; key++) (blocks[key] ??= []).push(i)
  }
  blocks.forEach((held, key) => {
    if (held) visit((key % across) * block, Math.floor(key / across) * block, block, held)
  })
  const room = grown(area, Math.ceil(farthest) + CELL)
  const floats = new Float32Array(pieces.length * PIECE)
  for (let i = 0, at = 0; i < pieces.length; i++, at += PIECE) {
    const { ax, ay, bx, by, radius, outer, inner, stroke } = cutTo(pieces[i]!, room)
    const long = (bx - ax) ** 2 + (by - ay) ** 2
    floats[at] = ax
    floats[at + 1] = ay
    floats[at + 2] = bx - ax
    floats[at + 3] = by - ay
    floats[at + 4] = long > 1e-12 ? 1 / long : 0
    floats[at + 5] = radius[0]
    floats[at + 6] = radius[1] - radius[0]
    floats[at + 7] = outer[0]
    floats[at + 8] = outer[1] - outer[0]
    floats[at + 9] = inner[0]
    floats[at + 10] = inner[1] - inner[0]
    floats[at + 11] = stroke
  }
  return { ...joined(lists), pieces: floats, left, top, columns, lines }
}

/** A piece without what lies off a box (Liang and Barsky 1984); one that does not cross it stays. */
function cutTo(piece: StrokePiece, { left, top, right, bottom }: Box): StrokePiece {
  const { ax, ay, bx, by } = piece
  if (Math.min(ax, bx) >= left && Math.max(ax, bx) <= right && Math.min(ay, by) >= top && Math.max(ay, by) <= bottom)
    return piece
  let from = 0
  let to = 1
  for (const [pace, room] of [
    [ax - bx, ax - left],
    [bx - ax, right - ax],
    [ay - by, ay - top],
    [by - ay, bottom - ay],
  ] as const) {
    if (pace < 0) from = Math.max(from, room / pace)
    else if (pace > 0) to = Math.min(to, room / pace)
  }
  if (from >= to || (from === 0 && to === 1)) return piece
  const ends = ([a, b]: readonly [number, number]): [number, number] => [a + (b - a) * from, a + (b - a) * to]
  const [x0, x1] = ends([ax, bx])
  const [y0, y1] = ends([ay, by])
  const { radius, outer, inner } = piece
  return { ...piece, ax: x0, ay: y0, bx: x1, by: y1, radius: ends(radius), outer: ends(outer), inner: ends(inner) }
}

/** Lists one after another, and where each begins; the last number is where all end. */
function joined(lists: readonly (readonly number[])[]): { rows: Float32Array; list: Float32Array } {
  const rows = new Float32Array(lists.length + 1)
  lists.forEach((own, i) => {
    rows[i + 1] = rows[i]! + own.length
  })
  const list = new Float32Array(Math.max(1, rows[lists.length]!))
  lists.forEach((own, i) => list.set(own, rows[i]))
  return { rows, list }
}
