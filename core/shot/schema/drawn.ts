// What is drawn on the picture: shapes of points with handles, and strokes of a brush.
import { JOINS } from '../../matte/join'
import {
  choice,
  flag,
  list,
  name,
  optional,
  place,
  rows,
  thing,
  three,
  value,
  ANY,
  type Row,
  type ValueOf,
} from '../../declare/field'

const HAND = [-20000, 20000] as const
const PIXEL = { unit: 'px', step: 1, digits: 1 }
const across = (label: string): ReturnType<typeof value> =>
  value(-ANY, ANY, { ...PIXEL, label, pixels: 'across', hand: HAND })
const down = (label: string): ReturnType<typeof value> =>
  value(-ANY, ANY, { ...PIXEL, label, pixels: 'down', hand: HAND })
const offset = (label: string): ReturnType<typeof value> =>
  value(-ANY, ANY, { ...PIXEL, label, pixels: 'size', neutral: 0, hand: HAND })
/** Pixels over which an edge fades, and how wide a line is, at most. */
export const MOST_SOFT = 2000
const soft = (label: string, help: string): ReturnType<typeof value> =>
  value(0, MOST_SOFT, { ...PIXEL, label, help, pixels: 'size', neutral: 0 })

/** What may be keyed of a point. */
export const POINT_VALUES = {
  x: across('across'),
  y: down('down'),
  /** Handles, from the point; none: a corner. */
  in_x: optional(offset('handle before, across')),
  in_y: optional(offset('handle before, down')),
  out_x: optional(offset('handle after, across')),
  out_y: optional(offset('handle after, down')),
  /** The shape's own where it says nothing. */
  outer: optional(soft('soft outside', 'Pixels outside the edge over which it fades, at this point.')),
  inner: optional(soft('soft inside', 'Pixels inside the edge over which it fades, at this point.')),
}
const POINT = thing(POINT_VALUES, { title: 'point' })
export type ShapePoint = ValueOf<typeof POINT> & Row
export const MOST_POINTS = 500
/** How what is drawn is moved as a whole. */
const WHOLE_VALUES = {
  move_x: offset('moved across'),
  move_y: offset('moved down'),
  turn: value(-ANY, ANY, { label: 'turned', unit: '°', step: 0.5, digits: 1, neutral: 0, hand: [-3600, 3600] }),
  scale: value(0.001, 1000, { label: 'size', unit: '×', step: 0.01, digits: 2, neutral: 1, hand: [0.01, 100] }),
}
/** What may be keyed of a shape as a whole. */
export const SHAPE_VALUES = {
  width: value(0, MOST_SOFT, {
    ...PIXEL,
    label: 'width',
    help: 'Of an open one, from side to side.',
    pixels: 'size',
    first: 20,
  }),
  outer: soft('soft outside', 'Pixels outside the edge over which it fades.'),
  inner: soft('soft inside', 'Pixels inside the edge over which it fades.'),
  ...WHOLE_VALUES,
}
const SHAPE = thing(
  {
    name: name(),
    on: flag(),
    join: choice(JOINS),
    closed: flag(),
    points: rows(POINT, MOST_POINTS),
    /** What it turns and grows about. */
    about: place(),
    ...SHAPE_VALUES,
  },
  { title: ({ name }) => name },
)
export type Shape = ValueOf<typeof SHAPE> & Row
export const SHAPES = rows(SHAPE, 60)

/** What the tip of a brush is like. */
export const TIP_VALUES = {
  size: value(0.1, MOST_SOFT, { ...PIXEL, label: 'size', help: 'From side to side.', pixels: 'size', first: 60 }),
  hardness: value(0, 1, { label: 'hardness', help: 'How much of its radius is held wholly.', neutral: 1, first: 0.5 }),
  flow: value(0, 1, { label: 'flow', help: 'How much a stroke gives or takes away.', neutral: 1, first: 1 }),
}
export const STROKE_VALUES = {
  ...TIP_VALUES,
  move_x: WHOLE_VALUES.move_x,
  move_y: WHOLE_VALUES.move_y,
  turn: optional(WHOLE_VALUES.turn),
  scale: optional(WHOLE_VALUES.scale),
}
/** Places of a stroke at most. */
export const MOST_PLACES = 5000
/** A stroke of a round tip; each place with how hard the pen was pressed there, 0 to 1, which its width follows. */
const STROKE = thing(
  {
    on: flag(),
    takes: flag({ label: 'takes away' }),
    points: list(three(-ANY, ANY, { pixels: 'place' }), MOST_PLACES),
    ...STROKE_VALUES,
  },
  { title: 'stroke' },
)
export type Stroke = ValueOf<typeof STROKE> & Row
export const STROKES = rows(STROKE, 500)
