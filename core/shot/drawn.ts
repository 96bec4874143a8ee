// What is drawn on the picture: made, changed by the hand, and what it is at a frame.
import { moved, type Contour, type ContourPoint } from '../matte/drawn/contour'
import type { DrawnShape, DrawnStroke } from '../matte/matte'
import { within } from '../declare/values'
import { valueAt, type Animatable } from '../time/curve'
import { MOST_SOFT, type Shape, type ShapePoint } from './schema/drawn'
import type { BrushMatte, ShapeMatte } from './schema/matte'
import { identifier } from './document'
import { inOrder, rowsOf } from './rows'

type Xy = readonly [number, number]

/** A contour as it stands at a frame, in pixels of the frame; without: not yet moved as a whole. */
export function contourAt(shape: Shape, frame: number, without = false): Contour {
  const at = (value: Animatable | undefined): number => valueAt(value ?? 0, frame)
  const softness = (own: Animatable | undefined, all: Animatable): number => within(at(own ?? all), 0, MOST_SOFT)
  const radius = within(at(shape.width), 0, MOST_SOFT) / 2
  const contour: Contour = {
    closed: shape.closed,
    points: inOrder(shape.points).map((point): ContourPoint => ({
      x: at(point.x),
      y: at(point.y),
      inX: at(point.in_x),
      inY: at(point.in_y),
      outX: at(point.out_x),
      outY: at(point.out_y),
      radius: shape.closed ? 0 : radius,
      outer: softness(point.outer, shape.outer),
      inner: softness(point.inner, shape.inner),
    })),
  }
  return without ? contour : moved(contour, movedBy(shape, frame))
}
export const movedBy = ({ about, move_x, move_y, turn, scale }: Shape, frame: number): Parameters<typeof moved>[1] => ({
  about,
  moveX: valueAt(move_x, frame),
  moveY: valueAt(move_y, frame),
  turn: valueAt(turn, frame),
  scale: within(valueAt(scale, frame), 0.001, 1000),
})

/** Where the frame lies in what is worked on: lengths are so many times less, then moved. */
export interface WorkPlace {
  shrink: number
  left: number
  top: number
}
/** A place of the frame where it is worked on, and a length. */
const placed = (contour: Contour, { shrink, left, top }: WorkPlace): Contour => ({
  closed: contour.closed,
  points: contour.points.map(point => ({
    x: point.x / shrink + left,
    y: point.y / shrink + top,
    inX: point.inX / shrink,
    inY: point.inY / shrink,
    outX: point.outX / shrink,
    outY: point.outY / shrink,
    radius: point.radius / shrink,
    outer: point.outer / shrink,
    inner: point.inner / shrink,
  })),
})

export const shapesAt = ({ shapes }: ShapeMatte, frame: number, place: WorkPlace): DrawnShape[] =>
  inOrder(shapes)
    .filter(({ on, points }) => on && Object.keys(points).length > 0)
    .map(shape => ({ contour: placed(contourAt(shape, frame), place), join: shape.join }))

export const strokesAt = ({ strokes }: BrushMatte, frame: number, place: WorkPlace): DrawnStroke[] =>
  inOrder(strokes)
    .filter(({ on, points }) => on && points.length > 0)
    .map(stroke => {
      const size = within(valueAt(stroke.size, frame), 0.1, MOST_SOFT)
      const hardness = within(valueAt(stroke.hardness, frame), 0, 1)
      const [dx, dy] = [valueAt(stroke.move_x, frame), valueAt(stroke.move_y, frame)]
      const points = stroke.points.map(([x, y, pressure]): ContourPoint => {
        const radius = (size / 2) * within(pressure, 0, 1)
        const corner = { inX: 0, inY: 0, outX: 0, outY: 0 }
        return { x: x + dx, y: y + dy, ...corner, radius, outer: 0, inner: radius * (1 - hardness) }
      })
      return {
        contour: placed({ closed: false, points }, place),
        flow: within(valueAt(stroke.flow, frame), 0, 1),
        takes: stroke.takes,
      }
    })

// Made

/** A point as it is drawn; its handles from it. */
export interface NewPoint {
  at: Xy
  in?: Xy
  out?: Xy
}
export const pointOf = ({ at, in: before, out: after }: NewPoint): Omit<ShapePoint, 'order'> => ({
  id: identifier(),
  x: at[0],
  y: at[1],
  ...(before ? { in_x: before[0], in_y: before[1] } : {}),
  ...(after ? { out_x: after[0], out_y: after[1] } : {}),
})
/** A shape of points; it turns about the middle of them. */
export function shapeOf(name: string, points: readonly NewPoint[], closed: boolean): Omit<Shape, 'order'> {
  const side = (k: 0 | 1): number => {
    const all = points.map(({ at }) => at[k])
    return (Math.min(...all) + Math.max(...all)) / 2
  }
  return {
    id: identifier(),
    name,
    on: true,
    join: 'also',
    closed,
    points: rowsOf<ShapePoint>(points.map(pointOf)),
    width: 20,
    outer: 0,
    inner: 0,
    about: [side(0), side(1)],
    move_x: 0,
    move_y: 0,
    turn: 0,
    scale: 1,
  }
}
/** Handles of a quarter of a circle of radius 1: within 0.03 % of it (A. Riškus 2006, 4/3 (√2 - 1)). */
export const QUARTER = (4 / 3) * (Math.SQRT2 - 1)
/** Within a box from one corner to the other. */
export function ellipsePoints([ax, ay]: Xy, [bx, by]: Xy): NewPoint[] {
  const [x, y] = [(ax + bx) / 2, (ay + by) / 2]
  const [rx, ry] = [Math.abs(bx - ax) / 2, Math.abs(by - ay) / 2]
  return [
    [0, -1],
    [1, 0],
    [0, 1],
    [-1, 0],
  ].map(([u, v]) => {
    const handle: Xy = [-v! * rx * QUARTER, u! * ry * QUARTER]
    return { at: [x + u! * rx, y + v! * ry], in: [0 - handle[0], 0 - handle[1]], out: handle }
  })
}
export const rectanglePoints = ([ax, ay]: Xy, [bx, by]: Xy): NewPoint[] => {
  const [left, right] = [Math.min(ax, bx), Math.max(ax, bx)]
  const [top, bottom] = [Math.min(ay, by), Math.max(ay, by)]
  return [{ at: [left, top] }, { at: [right, top] }, { at: [right, bottom] }, { at: [left, bottom] }]
}
