// What is drawn, as one writes it: 'shape points=X,Y:X,Y:X,Y outer=4', 'brush points=X,Y:X,Y size=20 hardness=1'.
import { ANY } from '../core/declare/field'
import { BadInput } from '../core/formats/errors'
import { shapeOf, strokeOf } from '../core/shot/drawn'
import { rowsOf } from '../core/shot/rows'
import { MOST_POINTS, SHAPE_VALUES, STROKE_VALUES, type Shape, type Stroke } from '../core/shot/schema/drawn'
import type { BrushMatte, ShapeMatte } from '../core/shot/schema/matte'
import { pointsOf, switchOf, valuesOf, type Line } from './said'

type Own<T> = Omit<T, 'join' | 'on' | 'invert'>

export function drawnLine(line: Line): Own<ShapeMatte> | Own<BrushMatte> {
  const { id, given } = line
  const text = given.get('points')
  if (!text) throw new BadInput(`${id} is drawn by its points: points=X,Y:X,Y`)
  const places = pointsOf(text, 'points', [-ANY, ANY], [-ANY, ANY])
  if (places.length > MOST_POINTS) throw new BadInput(`${id} takes ${MOST_POINTS} points at most`)
  const others = ['points', 'invert', 'join']
  if (id === 'shape') {
    const values = valuesOf(SHAPE_VALUES, line, [...others, 'open'])
    const closed = !switchOf(given.get('open'), 'open')
    const made = shapeOf(
      'shape 1',
      places.map(at => ({ at })),
      closed,
    )
    return { kind: 'shape', shapes: rowsOf<Shape>([{ ...made, ...values }]) }
  }
  const made = strokeOf(
    places.map(([x, y]) => [x, y, 1]),
    { ...valuesOf(STROKE_VALUES, line, others), takes: false },
  )
  return { kind: 'brush', strokes: rowsOf<Stroke>([made]) }
}
