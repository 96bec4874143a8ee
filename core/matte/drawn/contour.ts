// A drawn contour: points with handles, made straight pieces that lie as near to the curve as is asked for.
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
/** How often a curve is halved at most: pieces of 1/1024 of it. */
const DEEPEST = 10

type Xy = readonly [number, number]
const middle = ([ax, ay]: Xy, [bx, by]: Xy): Xy => [(ax + bx) / 2, (ay + by) / 2]
const isStraight = ({ outX, outY }: ContourPoint, { inX, inY }: ContourPoint): boolean =>
  outX === 0 && outY === 0 && inX === 0 && inY === 0

/**
 * The straight pieces of a contour, none farther from its curve than `tolerance` pixels where it comes near an area; what
 * lies off it altogether stays one piece. A closed one ends where it begins. Cubic Béziers, halved by de Casteljau's way
 * until their handles lie so near to the chord (the curve is within 3/4 of that).
 */
export function piecesOf({ points, closed }: Contour, tolerance: number, near: Box): Piece[] {
  const pieces: Piece[] = []
  if (points.length === 1 && !closed) points = [points[0]!, points[0]!]
  const count = closed ? points.length : points.length - 1
  for (let i = 0; i < count; i++) {
    const a = points[i]!
    const b = points[(i + 1) % points.length]!
    const at = (t: number, name: 'radius' | 'outer' | 'inner'): number => a[name] + (b[name] - a[name]) * t
    const put = ([ax, ay]: Xy, [bx, by]: Xy, from: number, to: number): void => {
      const ends = (name: 'radius' | 'outer' | 'inner'): [number, number] => [at(from, name), at(to, name)]
      pieces.push({ ax, ay, bx, by, radius: ends('radius'), outer: ends('outer'), inner: ends('inner') })
    }
    const split = (p: Xy, q: Xy, r: Xy, s: Xy, from: number, to: number, depth: number): void => {
      if (depth === DEEPEST || isOff(near, p, q, r, s) || isFlat(p, q, r, s, tolerance)) return put(p, s, from, to)
      const pq = middle(p, q)
      const qr = middle(q, r)
      const rs = middle(r, s)
      const left = middle(pq, qr)
      const right = middle(qr, rs)
      const half = middle(left, right)
      const between = (from + to) / 2
      split(p, pq, left, half, from, between, depth + 1)
      split(half, right, rs, s, between, to, depth + 1)
    }
    const from: Xy = [a.x, a.y]
    const to: Xy = [b.x, b.y]
    if (isStraight(a, b)) put(from, to, 0, 1)
    else split(from, [a.x + a.outX, a.y + a.outY], [b.x + b.inX, b.y + b.inY], to, 0, 1, 0)
  }
  return pieces
}

const isOff = ({ left, top, right, bottom }: Box, ...points: Xy[]): boolean =>
  points.every(([x]) => x < left) ||
  points.every(([x]) => x > right) ||
  points.every(([, y]) => y < top) ||
  points.every(([, y]) => y > bottom)

function isFlat(p: Xy, q: Xy, r: Xy, s: Xy, tolerance: number): boolean {
  const most = tolerance / 0.75
  return fromChord(q, p, s) <= most && fromChord(r, p, s) <= most
}
/** How far a place is from a straight piece. */
export function fromChord([x, y]: Xy, [ax, ay]: Xy, [bx, by]: Xy): number {
  const dx = bx - ax
  const dy = by - ay
  const long = dx * dx + dy * dy
  const t = long > 0 ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / long)) : 0
  return Math.hypot(x - ax - t * dx, y - ay - t * dy)
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
    for (let k = 1; k < STEPS; k++) {
      const t = k / STEPS
      const s = 1 - t
      const at = (p: number, q: number, r: number, e: number): number =>
        s ** 3 * p + 3 * s * s * t * q + 3 * s * t * t * r + t ** 3 * e
      const curved = !isStraight(a, b)
      const px = curved ? at(a.x, a.x + a.outX, b.x + b.inX, b.x) : a.x + (b.x - a.x) * t
      const py = curved ? at(a.y, a.y + a.outY, b.y + b.inY, b.y) : a.y + (b.y - a.y) * t
      const far = Math.hypot(px - x, py - y)
      if (far < least) [least, found] = [far, { index, share: t }]
    }
  }
  return found
}
