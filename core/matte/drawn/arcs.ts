// A drawn contour as arcs of circles: a third of the pieces that straight ones take to lie as near to a curve.
import type { Box } from '../../engine/box'
import { isStraight, type Contour, type Line } from './contour'

/** Pixels that an arc leans off its chord at most. */
const MOST_BOW = 1
/** Farther from its middle an arc is taken to be straight: single precision still tells a thousandth of a pixel there. */
const MOST_RADIUS = 4096
const DEEPEST = 14

/**
 * Of each piece its ends, the middle and radius of its circle (radius 0: it is straight), the point before it, and from
 * where to where of the way it goes.
 */
export interface Arcs extends Line {
  circles: Float64Array
  points: Int32Array
  shares: Float64Array
  /** Pixels that one leans off its chord at most. */
  bow: number
}
/** What is made, and by what. */
interface Making {
  ends: number[]
  circles: number[]
  points: number[]
  shares: number[]
  bow: number
  tolerance: number
  near: Box
  /** Of the piece at hand: the point before it, and how much of what goes evenly along it changes on all of it. */
  point: number
  change: number
}

/**
 * No arc is farther than `tolerance` pixels from its curve where it comes near an area, and nothing that changes evenly
 * along the curve is off by more than that.
 */
export function arcsOf({ points, closed }: Contour, tolerance: number, near: Box): Arcs {
  const making: Making = {
    ...{ ends: [], circles: [], points: [], shares: [], bow: 0 },
    ...{ tolerance, near, point: 0, change: 0 },
  }
  const count = closed ? points.length : points.length - 1
  for (let i = 0; i < count; i++) {
    const a = points[i]!
    const b = points[(i + 1) % points.length]!
    making.point = i
    making.change = Math.max(Math.abs(b.outer - a.outer), Math.abs(b.inner - a.inner))
    if (isStraight(a, b)) put(making, a.x, a.y, b.x, b.y, 0, 1)
    else {
      const x = { x0: a.x, x1: a.x + a.outX, x2: b.x + b.inX, x3: b.x }
      part(making, { ...x, y0: a.y, y1: a.y + a.outY, y2: b.y + b.inY, y3: b.y }, 0, 1, 0)
    }
  }
  return {
    count: making.points.length,
    ends: Float64Array.from(making.ends),
    circles: Float64Array.from(making.circles),
    points: Int32Array.from(making.points),
    shares: Float64Array.from(making.shares),
    bow: making.bow,
  }
}
function put(
  { ends, circles, points, shares, point }: Making,
  ax: number,
  ay: number,
  bx: number,
  by: number,
  from: number,
  to: number,
  cx = 0,
  cy = 0,
  radius = 0,
): void {
  ends.push(ax, ay, bx, by)
  circles.push(cx, cy, radius)
  points.push(point)
  shares.push(from, to)
}

/** A part of a curve. In plain numbers: it is gone through at every move of the hand. */
interface Cubic {
  x0: number
  x1: number
  x2: number
  x3: number
  y0: number
  y1: number
  y2: number
  y3: number
}
/**
 * A part of a curve: the circle through its ends and its middle where that is near enough to it, straight where a line is,
 * else its halves (de Casteljau).
 */
function part(making: Making, curve: Cubic, from: number, to: number, depth: number): void {
  const { x0, x1, x2, x3, y0, y1, y2, y3 } = curve
  const { left, top, right, bottom } = making.near
  if (
    (x0 < left && x1 < left && x2 < left && x3 < left) ||
    (x0 > right && x1 > right && x2 > right && x3 > right) ||
    (y0 < top && y1 < top && y2 < top && y3 < top) ||
    (y0 > bottom && y1 > bottom && y2 > bottom && y3 > bottom) ||
    depth >= DEEPEST
  ) {
    put(making, x0, y0, x3, y3, from, to)
    return
  }
  const xa = (x0 + x1) / 2
  const xb = (x1 + x2) / 2
  const xc = (x2 + x3) / 2
  const xd = (xa + xb) / 2
  const xe = (xb + xc) / 2
  const x = (xd + xe) / 2
  const ya = (y0 + y1) / 2
  const yb = (y1 + y2) / 2
  const yc = (y2 + y3) / 2
  const yd = (ya + yb) / 2
  const ye = (yb + yc) / 2
  const y = (yd + ye) / 2
  if (depth > 0 && isOne(making, curve, x, y, from, to)) return
  const middle = (from + to) / 2
  part(making, { x0, x1: xa, x2: xd, x3: x, y0, y1: ya, y2: yd, y3: y }, from, middle, depth + 1)
  part(making, { x0: x, x1: xe, x2: xc, x3, y0: y, y1: ye, y2: yc, y3 }, middle, to, depth + 1)
}
/** Puts a part of a curve down as one piece if it may be. x, y: its middle. */
function isOne(making: Making, curve: Cubic, x: number, y: number, from: number, to: number): boolean {
  const { x0, x1, x2, x3, y0, y1, y2, y3 } = curve
  const { tolerance } = making
  const change = making.change * (to - from)
  const dx = x3 - x0
  const dy = y3 - y0
  const square = dx * dx + dy * dy
  const long = Math.sqrt(square)
  const ux = x - x0
  const uy = y - y0
  const cross = ux * dy - uy * dx
  const bow = Math.abs(cross) / long
  // A half circle's share of the chord would not tell any more where along it one is
  if (!(bow <= MOST_BOW && bow <= long / 4)) return false
  let cx = 0
  let cy = 0
  let radius = 0
  if (bow > tolerance / 4) {
    const own = ux * ux + uy * uy
    const ox = (dy * own - uy * square) / (2 * cross)
    const oy = (ux * square - dx * own) / (2 * cross)
    radius = Math.sqrt(ox * ox + oy * oy)
    cx = x0 + ox
    cy = y0 + oy
    if (radius >= MOST_RADIUS) {
      if (bow > tolerance) return false
      radius = 0
    }
  }
  // What goes along by its share of the chord goes evenly along the curve
  if (change > 0 && change * Math.abs((ux * dx + uy * dy) / square - 0.5) > tolerance) return false
  // Where a curve of the third degree leans farthest off the circle through its ends and its middle
  for (let t = LEANS; t < 1; t += 1 - 2 * LEANS) {
    const s = 1 - t
    const a = s * s * s
    const b = 3 * s * s * t
    const c = 3 * s * t * t
    const d = t * t * t
    const px = a * x0 + b * x1 + c * x2 + d * x3
    const py = a * y0 + b * y1 + c * y2 + d * y3
    const along = ((px - x0) * dx + (py - y0) * dy) / square
    if (!(along >= 0 && along <= 1)) return false
    const off =
      radius > 0
        ? Math.abs(Math.sqrt((px - cx) * (px - cx) + (py - cy) * (py - cy)) - radius)
        : Math.abs((px - x0) * dy - (py - y0) * dx) / long
    if (off > tolerance) return false
  }
  if (radius > 0) {
    making.bow = Math.max(making.bow, bow)
    put(making, x0, y0, x3, y3, from, to, cx, cy, radius)
  } else put(making, x0, y0, x3, y3, from, to)
  return true
}
const LEANS = 0.21

/** Chords of the arcs that are off them by `tolerance` pixels at most. */
export function chordsOf({ count, ends, circles }: Arcs, tolerance: number): Line {
  const all: number[] = []
  for (let i = 0; i < count; i++) {
    const ax = ends[i * 4]!
    const ay = ends[i * 4 + 1]!
    const bx = ends[i * 4 + 2]!
    const by = ends[i * 4 + 3]!
    const radius = circles[i * 3 + 2]!
    let x = ax
    let y = ay
    if (radius > 0) {
      const cx = circles[i * 3]!
      const cy = circles[i * 3 + 1]!
      const half = Math.asin(Math.min(1, Math.hypot(bx - ax, by - ay) / (2 * radius)))
      const steps = Math.ceil((2 * half) / Math.sqrt((8 * tolerance) / radius))
      const isLeft = (ax - cx) * (by - cy) - (ay - cy) * (bx - cx) > 0
      const angle = ((isLeft ? 2 : -2) * half) / steps
      const cos = Math.cos(angle)
      const sin = Math.sin(angle)
      let rx = ax - cx
      let ry = ay - cy
      for (let k = 1; k < steps; k++) {
        const turned = rx * cos - ry * sin
        ry = rx * sin + ry * cos
        rx = turned
        all.push(x, y, cx + rx, cy + ry)
        x = cx + rx
        y = cy + ry
      }
    }
    all.push(x, y, bx, by)
  }
  return { count: all.length / 4, ends: Float64Array.from(all) }
}
