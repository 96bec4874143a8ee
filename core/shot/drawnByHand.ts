// What is drawn, changed by the hand. Places and lengths are in pixels of the frame as it is seen; a value with keys gets
// one at the frame.
import { isCurve, valueAt, withKey, withValue, type Animatable } from '../time/curve'
import { movedBy, pointOf } from './drawn'
import { MOST_SOFT, type Shape, type ShapePoint } from './schema/drawn'
import { addRow, inOrder } from './rows'

type Xy = readonly [number, number]

/** A place of the picture as the shape has it, before it is moved as a whole. */
function unmoved(shape: Shape, frame: number, [x, y]: Xy): [number, number] {
  const { about, moveX, moveY, turn, scale } = movedBy(shape, frame)
  const cos = Math.cos((-turn * Math.PI) / 180) / scale
  const sin = Math.sin((-turn * Math.PI) / 180) / scale
  const [dx, dy] = [x - about[0] - moveX, y - about[1] - moveY]
  return [about[0] + dx * cos - dy * sin, about[1] + dx * sin + dy * cos]
}
const round = (value: number): number => Math.round(value * 100) / 100
const set = <N extends string>(holder: Partial<Record<N, Animatable>>, name: N, frame: number, to: number): void => {
  holder[name] = withValue(holder[name] ?? 0, frame, round(to))
}

export function movePoint(shape: Shape, id: string, frame: number, to: Xy): void {
  const point = shape.points[id]
  if (!point) return
  const [x, y] = unmoved(shape, frame, to)
  set(point, 'x', frame, x)
  set(point, 'y', frame, y)
}
/** to: where the handle is to stand; the other goes on in line with it where the point is smooth and alone is not asked for. */
export function moveHandle(shape: Shape, id: string, which: 'in' | 'out', frame: number, to: Xy, alone = false): void {
  const point = shape.points[id]
  if (!point) return
  const at = (value: Animatable | undefined): number => valueAt(value ?? 0, frame)
  const own: Xy = [at(which === 'in' ? point.in_x : point.out_x), at(which === 'in' ? point.in_y : point.out_y)]
  const other: Xy = [at(which === 'in' ? point.out_x : point.in_x), at(which === 'in' ? point.out_y : point.in_y)]
  const [x, y] = unmoved(shape, frame, to)
  const now: Xy = [x - at(point.x), y - at(point.y)]
  const put = (side: 'in' | 'out', [dx, dy]: Xy): void => {
    set(point, side === 'in' ? 'in_x' : 'out_x', frame, dx)
    set(point, side === 'in' ? 'in_y' : 'out_y', frame, dy)
  }
  put(which, now)
  const lengths = Math.hypot(...own) * Math.hypot(...other)
  const isSmooth = lengths > 0 && (own[0] * other[0] + own[1] * other[1]) / lengths < -0.999
  const long = Math.hypot(...now)
  if (isSmooth && !alone && long > 0) {
    const far = Math.hypot(...other) / long
    put(which === 'in' ? 'out' : 'in', [-now[0] * far, -now[1] * far])
  }
}
/** A corner becomes smooth, with handles along the line of its neighbours, a third of the way; a smooth one a corner. */
export function turnCorner(shape: Shape, id: string, frame: number): void {
  const list = inOrder(shape.points)
  const index = list.findIndex(point => point.id === id)
  const point = list[index]
  if (!point) return
  const at = (value: Animatable | undefined): number => valueAt(value ?? 0, frame)
  if ([point.in_x, point.in_y, point.out_x, point.out_y].some(value => at(value))) {
    for (const name of ['in_x', 'in_y', 'out_x', 'out_y'] as const) delete point[name]
    return
  }
  const beside = (by: number): ShapePoint | undefined =>
    list[shape.closed ? (index + by + list.length) % list.length : index + by]
  const [before, after] = [beside(-1) ?? point, beside(1) ?? point]
  const line: Xy = [at(after.x) - at(before.x), at(after.y) - at(before.y)]
  const long = Math.hypot(...line)
  if (!long) return
  const put = (names: readonly ['in_x' | 'out_x', 'in_y' | 'out_y'], other: ShapePoint, way: 1 | -1): void => {
    const far = (way * Math.hypot(at(other.x) - at(point.x), at(other.y) - at(point.y))) / 3 / long
    set(point, names[0], frame, line[0] * far)
    set(point, names[1], frame, line[1] * far)
  }
  if (before !== point) put(['in_x', 'in_y'], before, -1)
  if (after !== point) put(['out_x', 'out_y'], after, 1)
}

/** The values of a point that say where its curve goes. */
const GOES = ['x', 'y', 'in_x', 'in_y', 'out_x', 'out_y'] as const
/**
 * A new point on the curve from a point to the next, at a share of the way: the curve stays as it is (de Casteljau), at
 * every key of its neighbours too. Returns its id.
 */
export function insertPoint(shape: Shape, after: string, t: number, frame: number): string | undefined {
  const list = inOrder(shape.points)
  const index = list.findIndex(point => point.id === after)
  const [a, b] = [list[index], list[index + 1] ?? (shape.closed ? list[0] : undefined)]
  if (!a || !b || a === b) return undefined
  const frames = new Set<number>()
  for (const point of [a, b])
    for (const name of GOES) {
      const value = point[name]
      if (isCurve(value)) for (const key of value.keys) frames.add(key.frame)
    }
  const isKeyed = frames.size > 0
  if (!isKeyed) frames.add(frame)
  const { id } = addRow(shape.points, pointOf({ at: [0, 0] }) as ShapePoint, after)
  const made = shape.points[id]!
  const put = (point: ShapePoint, name: (typeof GOES)[number], at: number, to: number): void => {
    point[name] = isKeyed ? withKey(point[name] ?? 0, at, round(to)) : round(to)
  }
  // All of them are read before one is changed
  const splits = [...frames].map(at => ({ at, ...splitAt(a, b, t, at) }))
  for (const { at, first, before, place, next, last } of splits) {
    put(made, 'x', at, place[0])
    put(made, 'y', at, place[1])
    if (!first && !last) continue
    put(a, 'out_x', at, first![0])
    put(a, 'out_y', at, first![1])
    put(made, 'in_x', at, before![0])
    put(made, 'in_y', at, before![1])
    put(made, 'out_x', at, next![0])
    put(made, 'out_y', at, next![1])
    put(b, 'in_x', at, last![0])
    put(b, 'in_y', at, last![1])
  }
  return id
}
/** The handles of a curve cut in two: after its beginning, round the cut, before its end; none of a straight one. */
function splitAt(
  a: ShapePoint,
  b: ShapePoint,
  t: number,
  frame: number,
): { place: Xy; first?: Xy; before?: Xy; next?: Xy; last?: Xy } {
  const at = (value: Animatable | undefined): number => valueAt(value ?? 0, frame)
  const between = ([ax, ay]: Xy, [bx, by]: Xy): Xy => [ax + (bx - ax) * t, ay + (by - ay) * t]
  const from = ([ax, ay]: Xy, [bx, by]: Xy): Xy => [bx - ax, by - ay]
  const p: Xy = [at(a.x), at(a.y)]
  const s: Xy = [at(b.x), at(b.y)]
  if (![a.out_x, a.out_y, b.in_x, b.in_y].some(value => at(value))) return { place: between(p, s) }
  const q: Xy = [p[0] + at(a.out_x), p[1] + at(a.out_y)]
  const r: Xy = [s[0] + at(b.in_x), s[1] + at(b.in_y)]
  const [pq, qr, rs] = [between(p, q), between(q, r), between(r, s)]
  const [left, right] = [between(pq, qr), between(qr, rs)]
  const place = between(left, right)
  return { place, first: from(p, pq), before: from(place, left), next: from(place, right), last: from(s, rs) }
}

/** A key of all that a shape's points are, at a frame: what is moved at another frame is a key there from now on. */
export function keyShape(shape: Shape, frame: number): void {
  for (const point of Object.values(shape.points))
    for (const name of GOES)
      if (point[name] !== undefined) point[name] = withKey(point[name], frame, valueAt(point[name], frame))
}
/** Without keys of its points: as it stands at a frame. */
export function stillShape(shape: Shape, frame: number): void {
  for (const point of Object.values(shape.points))
    for (const name of GOES) if (point[name] !== undefined) point[name] = round(valueAt(point[name], frame))
}
export const isKeyed = ({ points }: Shape): boolean =>
  Object.values(points).some(point => GOES.some(name => isCurve(point[name])))
/** Pixels over which a point's edge fades, outside or inside; the shape's own from the first time that it is moved. */
export function setSoft(shape: Shape, id: string, which: 'outer' | 'inner', frame: number, to: number): void {
  const point = shape.points[id]
  if (point) point[which] = withValue(point[which] ?? shape[which], frame, round(Math.min(MOST_SOFT, Math.max(0, to))))
}
