// What is drawn on the picture: made, and what it is at a frame.
import { operatorKey } from '../engine/key'
import { moved, type Contour, type ContourPoint } from '../matte/drawn/contour'
import type { DrawnShape, DrawnStroke } from '../matte/matte'
import type { EntryValue } from '../declare/field'
import { firstValues, valuesAt, within, type EntryFields, type ValuesAt } from '../declare/values'
import { valueAt, type Animatable } from '../time/curve'
import { POINT_VALUES, SHAPE_VALUES, STROKE_VALUES, type Shape, type ShapePoint, type Stroke } from './schema/drawn'
import type { BrushMatte, ShapeMatte } from './schema/matte'
import { identifier } from './document'
import { inOrder, rowsOf } from './rows'

type Xy = readonly [number, number]

/** Where the frame lies in what is worked on: lengths are so many times less, then moved. */
export interface WorkPlace {
  shrink: number
  left: number
  top: number
}
/** The frame itself. */
const WHOLE: WorkPlace = { shrink: 1, left: 0, top: 0 }
const valuesIn = <F extends EntryFields>(fields: F, of: object, frame: number, { shrink }: WorkPlace): ValuesAt<F> =>
  valuesAt(fields, of as Record<string, EntryValue>, frame, valueAt, shrink)

/** How a shape is moved as a whole at a frame. */
export function movedBy(shape: Shape, frame: number, place = WHOLE): Parameters<typeof moved>[1] {
  const { move_x, move_y, turn, scale } = valuesIn(SHAPE_VALUES, shape, frame, place)
  const about = [shape.about[0] / place.shrink, shape.about[1] / place.shrink] as const
  return { about, moveX: move_x + place.left, moveY: move_y + place.top, turn, scale }
}
/** A contour as it stands at a frame, in pixels of the frame, or of what is worked on. */
export function contourAt(shape: Shape, frame: number, place = WHOLE): Contour {
  const { closed, outer, inner } = shape
  const radius = closed ? 0 : valuesIn(SHAPE_VALUES, shape, frame, place).width / 2
  const points = inOrder(shape.points).map((point): ContourPoint => {
    const v = valuesIn(POINT_VALUES, { outer, inner, ...point }, frame, place)
    const handles = { inX: v.in_x, inY: v.in_y, outX: v.out_x, outY: v.out_y }
    return { x: v.x, y: v.y, ...handles, radius, outer: v.outer, inner: v.inner }
  })
  return moved({ closed, points }, movedBy(shape, frame, place))
}

export const shapesAt = ({ shapes }: ShapeMatte, frame: number, place: WorkPlace): DrawnShape[] =>
  inOrder(shapes)
    .filter(({ on, points }) => on && Object.keys(points).length > 0)
    .map(shape => ({ contour: contourAt(shape, frame, place), join: shape.join }))

/** Names of drawn lines: a document is never changed in place, so that one is named once. */
const named = new WeakMap<Stroke['points'], string>()
function nameOf(points: Stroke['points']): string {
  const name = named.get(points) ?? operatorKey(points)
  named.set(points, name)
  return name
}
/** The middle of the box round its places: what a stroke turns and grows about. */
function aboutOf({ points }: Stroke): Xy {
  const middle = (k: 0 | 1): number => {
    let [least, most] = [Infinity, -Infinity]
    for (const place of points) {
      least = Math.min(least, place[k])
      most = Math.max(most, place[k])
    }
    return (least + most) / 2
  }
  return [middle(0), middle(1)]
}
/** How a stroke is moved as a whole at a frame. */
export function strokeMovedBy(stroke: Stroke, frame: number, place = WHOLE): Parameters<typeof moved>[1] {
  const { move_x, move_y, turn, scale } = valuesIn(STROKE_VALUES, stroke, frame, place)
  const [x, y] = aboutOf(stroke)
  return {
    about: [x / place.shrink, y / place.shrink],
    moveX: move_x + place.left,
    moveY: move_y + place.top,
    turn,
    scale,
  }
}
/** The line of a stroke as it stands at a frame. */
export function strokeContour(stroke: Stroke, frame: number, place = WHOLE): Contour {
  const v = valuesIn(STROKE_VALUES, stroke, frame, place)
  const by = strokeMovedBy(stroke, frame, place)
  const points = stroke.points.map(([x, y, pressure]): ContourPoint => {
    const radius = (v.size / 2) * within(pressure, 0, 1)
    const at = { x: x / place.shrink, y: y / place.shrink }
    return { ...at, inX: 0, inY: 0, outX: 0, outY: 0, radius, outer: 0, inner: radius * by.scale * (1 - v.hardness) }
  })
  return moved({ closed: false, points }, by)
}
export const strokesAt = ({ strokes }: BrushMatte, frame: number, place: WorkPlace): DrawnStroke[] =>
  inOrder(strokes)
    .filter(({ on, points }) => on && points.length > 0)
    .map(stroke => {
      const { points, takes, ...values } = stroke
      const v = valuesIn(STROKE_VALUES, values, frame, place)
      const contour = (): Contour => strokeContour(stroke, frame, place)
      return { name: JSON.stringify([nameOf(points), v, place]), contour, flow: v.flow, takes }
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
    about: [side(0), side(1)],
    ...firstNumbers(SHAPE_VALUES),
  }
}
/** A stroke of a tip; what the tip does not say is as in a new one. */
export const strokeOf = (
  points: Stroke['points'],
  { takes, ...tip }: { takes: boolean } & Partial<Record<keyof typeof STROKE_VALUES, Animatable>>,
  id = identifier(),
): Omit<Stroke, 'order'> => ({ id, on: true, takes, points, ...firstNumbers(STROKE_VALUES), ...tip })
/** What values that are numbers begin with. */
export const firstNumbers = <F extends EntryFields>(fields: F): Record<keyof F, number> =>
  firstValues(fields) as Record<keyof F, number>
/** Handles of a quarter of a circle of radius 1: within 0.03 % of it (A. Riškus 2006, 4/3 (√2 - 1)). */
const QUARTER = (4 / 3) * (Math.SQRT2 - 1)
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
