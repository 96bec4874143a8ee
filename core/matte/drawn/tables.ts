// What the kernels of drawn mattes read: the straight pieces of contours, and which of them a small cell of the picture
// may have nearest. Made in double precision and cut to what is worked on, so that a point far off the picture costs no
// accuracy on it.
import { common, grown, isEmpty, type Box } from '../../engine/box'
import type { Piece } from './contour'

/** Pixels of a cell's side. */
export const CELL = 8
/**
 * Floats of a piece: a, b - a, 1 / length², radius, outer and inner at a and what they gain as far as b, its stroke. An
 * arc has the middle of its circle from a for the radius, and for its stroke that of the circle; else that is 0.
 */
export const PIECE = 12

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

/** Cells to a side of a block, which pieces are first told to. */
const BLOCK = 8
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
  if (!pieces.length || isEmpty(within)) return NO_CELLS
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
  const side = CELL * BLOCK
  const across = Math.ceil(columns / BLOCK)
  const down = Math.ceil(lines / BLOCK)
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
    if (held) visit((key % across) * BLOCK, Math.floor(key / across) * BLOCK, BLOCK, held)
  })
  const room = grown(area, Math.ceil(farthest) + CELL)
  return { ...joined(lists), pieces: tableOf(pieces.map(piece => cutTo(piece, room))), left, top, columns, lines }
}
export const NO_CELLS: Cells = {
  ...{ rows: new Float32Array(1), list: new Float32Array(1), pieces: new Float32Array(PIECE) },
  ...{ left: 0, top: 0, columns: 0, lines: 0 },
}

function tableOf(pieces: readonly StrokePiece[]): Float32Array {
  const floats = new Float32Array(pieces.length * PIECE)
  pieces.forEach((piece, i) => {
    putPiece(floats, i * PIECE, piece)
    floats[i * PIECE + 11] = piece.stroke
  })
  return floats
}
export function putPiece(floats: Float32Array, at: number, { ax, ay, bx, by, radius, outer, inner }: Piece): void {
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
}

export function putCircle(floats: Float32Array, at: number, circles: Float64Array, from: number): void {
  floats[at + 5] = circles[from]! - floats[at]!
  floats[at + 6] = circles[from + 1]! - floats[at + 1]!
  floats[at + 11] = circles[from + 2]!
}

/** A piece without what lies off a box (Liang and Barsky 1984); one that does not cross it stays. */
export function cutTo<P extends Piece>(piece: P, { left, top, right, bottom }: Box): P {
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
