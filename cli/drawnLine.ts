// What is drawn, as one writes it: 'shape points=X,Y:X,Y:X,Y outer=4', 'brush points=X,Y:X,Y size=20 hardness=1'.
import { BadInput } from '../core/formats/errors'
import { identifier } from '../core/shot/document'
import { shapeOf } from '../core/shot/drawn'
import { rowsOf } from '../core/shot/rows'
import { MOST_POINTS, MOST_SOFT, type Shape, type Stroke } from '../core/shot/schema/drawn'
import type { BrushMatte, ShapeMatte } from '../core/shot/schema/matte'
import { list } from './arguments'
import { numberOf, switchOf, type Line } from './said'

const KNOWN = { shape: ['points', 'open', 'width', 'outer', 'inner'], brush: ['points', 'size', 'hardness', 'flow'] }
type Own<T> = Omit<T, 'join' | 'on' | 'invert'>

export function drawnLine({ id, given }: Line): Own<ShapeMatte> | Own<BrushMatte> {
  const known = [...KNOWN[id as 'shape'], 'invert', 'join']
  for (const name of given.keys())
    if (!known.includes(name)) throw new BadInput(`${id} has no value “${name}”; it has ${known.join(', ')}`)
  const value = (name: string, standing: number, low: number, high: number): number =>
    given.has(name) ? numberOf(given.get(name)!, name, low, high) : standing
  const points = (given.get('points') ?? '')
    .split(':')
    .filter(Boolean)
    .map(text => {
      const parts = list(text)
      if (parts.length !== 2) throw new BadInput(`points takes X,Y:X,Y, not “${text}”`)
      return parts.map(part => numberOf(part, 'points', -1e6, 1e6)) as [number, number]
    })
  if (!points.length) throw new BadInput(`${id} is drawn by its points: points=X,Y:X,Y`)
  if (points.length > MOST_POINTS) throw new BadInput(`${id} takes ${MOST_POINTS} points at most`)
  if (id === 'shape') {
    const shape = {
      ...shapeOf(
        'shape 1',
        points.map(at => ({ at })),
        !switchOf(given.get('open'), 'open'),
      ),
      width: value('width', 20, 0, MOST_SOFT),
      outer: value('outer', 0, 0, MOST_SOFT),
      inner: value('inner', 0, 0, MOST_SOFT),
    }
    return { kind: 'shape', shapes: rowsOf<Shape>([shape]) }
  }
  const stroke = {
    id: identifier(),
    on: true,
    takes: false,
    points: points.map(([x, y]): [number, number, number] => [x, y, 1]),
    size: value('size', 60, 0.1, MOST_SOFT),
    hardness: value('hardness', 0.5, 0, 1),
    flow: value('flow', 1, 0, 1),
    move_x: 0,
    move_y: 0,
  }
  return { kind: 'brush', strokes: rowsOf<Stroke>([stroke]) }
}
