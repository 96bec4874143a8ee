// A drawn contour: points with handles, made straight pieces that lie as near to the curve as is asked for (arcs.ts has
// it in arcs).
import type { Box } from '../../engine/box'

/** A point of a contour in pixels; its handles and softness too. */
export interface ContourPoint {
  x: number
  y: number
  /** Handles as offsets from the point, towards the one before and the one after. */
  inX: number
  inY: number
  outX: number
  outY: number
  /** Half of how wide an open one is there. */
  radius: number
  /** Pixels over which it fades outside its edge and inside. */
  outer: number
  inner: number
}
export interface Contour {
  closed: boolean
  points: readonly ContourPoint[]
}
/** A straight piece. What is said at its two ends goes on evenly between them. */
export interface Piece {
  ax: number
  ay: number
  bx: number
  by: number
  radius: readonly [number, number]
  outer: readonly [number, number]
  inner: readonly [number, number]
}
/** Straight pieces: of each its ends. */
export interface Line {
  count: number
  ends: Float64Array
}
/** How often a curve is halved at most, and in how many even steps of its parameter a part of it is gone along. */
const DEEPEST = 10
const MOST_STEPS = 32
/** Halves lean less: so often a curve of more than a few steps is halved in any case. */
const FIRST_HALVES = 2
const FEW_STEPS = 4

type Xy = readonly [number, number]
export const isStraight = ({ outX, outY }: ContourPoint, { inX, inY }: ContourPoint): boolean =>
  outX === 0 && outY === 0 && inX === 0 && inY === 0

/** Told of a straight piece: its ends, the point before it, and from where to where of the way to the next it goes. */
type Put = (ax: number, ay: number, bx: number, by: number, point: number, from: number, to: number) => void
/**
 * Goes along a contour by straight pieces, none farther from its curve than `tolerance` pixels where it comes near an
 * area; what lies off it altogether stays one piece. A closed one ends where it begins. Cubic Béziers: by de Casteljau's
 * halves until few even steps are enough by the second differences of its points (G. Wang 1984).
 */
export function alongPieces({ points, closed }: Contour, tolerance: number, near: Box, put: Put): void {
  if (points.length === 1 && !closed) points = [points[0]!, points[0]!]
  const count = closed ? points.length : points.length - 1
  for (let i = 0; i < count; i++) {
    const a = points[i]!
    const b = points[(i + 1) % points.length]!
    if (isStraight(a, b)) put(a.x, a.y, b.x, b.y, i, 0, 1)
    else
      part(
        [a.x, a.x + a.outX, b.x + b.inX, b.x],
        [a.y, a.y + a.outY, b.y + b.inY, b.y],
        { tolerance, near, put, point: i },
        0,
        1,
        0,
      )
  }
}
type Four = readonly [number, number, number, number]
function part(
  x: Four,
  y: Four,
  told: { tolerance: number; near: Box; put: Put; point: number },
  from: number,
  to: number,
  depth: number,
): void {
  const { tolerance, near, put, point } = told
  const { left, top, right, bottom } = near
  const isOff = Math.max(...x) < left || Math.min(...x) > right || Math.max(...y) < top || Math.min(...y) > bottom
  if (isOff) return put(x[0], y[0], x[3], y[3], point, from, to)
  const steps = Math.max(1, Math.ceil(Math.sqrt((0.75 * bendOf(x, y)) / tolerance)))
  if (steps > (depth < FIRST_HALVES ? FEW_STEPS : MOST_STEPS) && depth < DEEPEST) {
    const [xLeft, xRight] = halves(x)
    const [yLeft, yRight] = halves(y)
    const middle = (from + to) / 2
    part(xLeft, yLeft, told, from, middle, depth + 1)
    part(xRight, yRight, told, middle, to, depth + 1)
    return
  }
  let [ax, ay] = [x[0], y[0]]
  const even = Math.min(steps, MOST_STEPS)
  for (let k = 1; k <= even; k++) {
    const t = k / even
    const bx = k === even ? x[3] : cubic(x, t)
    const by = k === even ? y[3] : cubic(y, t)
    put(ax, ay, bx, by, point, from + (to - from) * ((k - 1) / even), from + (to - from) * t)
    ax = bx
    ay = by
  }
}
/**
 * Greatest second difference of a curve's points, as far as it takes the curve off its straight pieces: what of it goes
 * along the curve does so only by how far the curve leans from its chord.
 */
function bendOf(x: Four, y: Four): number {
  const ux = x[0] - 2 * x[1] + x[2]
  const uy = y[0] - 2 * y[1] + y[2]
  const vx = x[1] - 2 * x[2] + x[3]
  const vy = y[1] - 2 * y[2] + y[3]
  const whole = Math.max(Math.hypot(ux, uy), Math.hypot(vx, vy))
  const cx = x[3] - x[0]
  const cy = y[3] - y[0]
  const long = Math.hypot(cx, cy)
  let lean = 0
  for (let k = 0; k < 3; k++) {
    const dx = x[k + 1]! - x[k]!
    const dy = y[k + 1]! - y[k]!
    const along = dx * cx + dy * cy
    if (along <= 0) return whole
    lean = Math.max(lean, Math.abs(dx * cy - dy * cx) / along)
  }
  const off = Math.max(Math.abs(ux * cy - uy * cx), Math.abs(vx * cy - vy * cx)) / long
  const along = Math.max(Math.abs(ux * cx + uy * cy), Math.abs(vx * cx + vy * cy)) / long
  return Math.min(whole, off + lean * along)
}
function halves([p, q, r, s]: Four): [Four, Four] {
  const [pq, qr, rs] = [(p + q) / 2, (q + r) / 2, (r + s) / 2]
  const [left, right] = [(pq + qr) / 2, (qr + rs) / 2]
  const middle = (left + right) / 2
  return [
    [p, pq, left, middle],
    [middle, right, rs, s],
  ]
}
const cubic = ([p, q, r, e]: Four, t: number): number => {
  const s = 1 - t
  return s * s * s * p + 3 * s * s * t * q + 3 * s * t * t * r + t * t * t * e
}

/** The straight pieces of a contour, as alongPieces goes. */
export function piecesOf(contour: Contour, tolerance: number, near: Box): Piece[] {
  const pieces: Piece[] = []
  const { points } = contour
  alongPieces(contour, tolerance, near, (ax, ay, bx, by, i, from, to) => {
    const a = points[i]!
    const b = points[(i + 1) % points.length]!
    const ends = (name: 'radius' | 'outer' | 'inner'): [number, number] => [
      a[name] + (b[name] - a[name]) * from,
      a[name] + (b[name] - a[name]) * to,
    ]
    pieces.push({ ax, ay, bx, by, radius: ends('radius'), outer: ends('outer'), inner: ends('inner') })
  })
  return pieces
}

/** A contour turned and scaled about a place and then moved; what is soft stays as soft. */
export function moved(
  { points, closed }: Contour,
  by: { about: readonly [number, number]; moveX: number; moveY: number; turn: number; scale: number },
): Contour {
  const cos = Math.cos((by.turn * Math.PI) / 180) * by.scale
  const sin = Math.sin((by.turn * Math.PI) / 180) * by.scale
  const turned = (x: number, y: number): [number, number] => [x * cos - y * sin, x * sin + y * cos]
  return {
    closed,
    points: points.map(point => {
      const [x, y] = turned(point.x - by.about[0], point.y - by.about[1])
      const [inX, inY] = turned(point.inX, point.inY)
      const [outX, outY] = turned(point.outX, point.outY)
      const radius = point.radius * by.scale
      return { ...point, x: x + by.about[0] + by.moveX, y: y + by.about[1] + by.moveY, inX, inY, outX, outY, radius }
    }),
  }
}

/** The place of a contour nearest to one: the point before it, and how far on to the next, 0..1. By small steps. */
export function nearestOn({ points, closed }: Contour, [x, y]: Xy): { index: number; share: number } | undefined {
  const STEPS = 64
  let found: { index: number; share: number } | undefined
  let least = Infinity
  const count = closed ? points.length : points.length - 1
  for (let index = 0; index < count; index++) {
    const a = points[index]!
    const b = points[(index + 1) % points.length]!
    const curved = !isStraight(a, b)
    for (let k = 1; k < STEPS; k++) {
      const t = k / STEPS
      const px = curved ? cubic([a.x, a.x + a.outX, b.x + b.inX, b.x], t) : a.x + (b.x - a.x) * t
      const py = curved ? cubic([a.y, a.y + a.outY, b.y + b.inY, b.y], t) : a.y + (b.y - a.y) * t
      const far = Math.hypot(px - x, py - y)
      if (far < least) [least, found] = [far, { index, share: t }]
    }
  }
  return found
}
