// What the picture is built of, from far to near; and the desk.
import { CLEAN_AMOUNT } from '../../render/passes'
import { BLEND_MODES } from '../../layer/modes'
import {
  anyValue,
  choice,
  colourValues,
  either,
  flag,
  name,
  named,
  optional,
  rows,
  thing,
  titled,
  value,
  type Row,
  type ValueOf,
} from '../../declare/field'
import { PICTURE } from './picture'
import { TREATMENT } from './treatment'

/** A share with the step of a fader. */
const share = (label: string, help: string, neutral: number, high = 1): ReturnType<typeof value> =>
  value(0, high, { label, help, step: 0.004, neutral })

const COMMON = {
  name: name(),
  on: flag(),
  opacity: share('opacity', '', 1),
  mode: choice(
    BLEND_MODES.map(mode => mode.id),
    { label: 'blending mode' },
  ),
  treatments: rows(TREATMENT, 200),
}
/** The outline: how much of it is inked, in linear Rec.709, and how much of it is taken out of the objects. */
export const INK = thing({
  strength: share('ink', '', 0),
  colour: colourValues('ink ', { neutral: 0 }),
  bite: share('taken out', '', 0),
})

export const PLATE_LAYER = thing({ ...COMMON, kind: choice(['plate']) }, { title: ({ name }) => name })
export const RENDER_LAYER = thing(
  {
    ...COMMON,
    kind: choice(['render']),
    shadow: share('shadow', '1 as rendered, 0 none.', 1, 2),
    occlusion: share('occlusion', 'How much of the occlusion pass is multiplied in.', 0),
    clean: optional(
      share(
        'noise taken out',
        '1 all that is known to be noise, 0 as rendered. A part of it left in keeps fine detail alive.',
        CLEAN_AMOUNT,
      ),
    ),
    wet: optional(share('wet ground', '1 as rendered.', 1, 4)),
    air: optional(share('air', '1 as rendered, 0 clear.', 1)),
    ink: optional(INK),
  },
  { title: ({ name }) => name },
)
/** Of what is flat. */
const DISTANCE = value(0.001, 1e6, {
  label: 'distance',
  help: 'From the camera; what of the render is nearer covers it.',
  step: 0.02,
  unit: 'm',
})
/** One colour over all that is farther away, linear Rec.709. */
export const WASH_LAYER = thing(
  {
    ...COMMON,
    kind: choice(['wash']),
    colour: colourValues('', { help: 'Linear Rec.709.', first: [0.42, 0.5, 0.6] }),
    distance: DISTANCE,
  },
  { title: ({ name }) => name },
)
export const PICTURE_LAYER = thing(
  {
    ...COMMON,
    kind: choice(['picture']),
    picture: PICTURE,
    distance: DISTANCE,
    /** Pixels of the frame: middle of the picture. */
    x: anyValue({ label: 'across', step: 1, digits: 0, pixels: 'across' }),
    y: anyValue({ label: 'down', step: 1, digits: 0, unit: 'px', pixels: 'down' }),
    /** Frame pixels to a picture pixel. */
    scale: value(1e-3, 1e3, { label: 'scale', step: 0.002, digits: 3, neutral: 1, pixels: 'size' }),
    rotation: anyValue({ label: 'turn', step: 0.2, digits: 1, unit: 'deg', neutral: 0 }),
  },
  { title: ({ name }) => name },
)
export const LAYER = either('kind', {
  plate: PLATE_LAYER,
  render: RENDER_LAYER,
  picture: PICTURE_LAYER,
  wash: WASH_LAYER,
})

const gain = (label: string): ReturnType<typeof value> => value(0, 100, { label, neutral: 1 })
/** One column of the desk: gains that multiply, stops that add. Absent values are neutral. */
export const DESK_COLUMN = thing({
  diffuse_direct: optional(gain('direct light')),
  diffuse_indirect: optional(gain('indirect light')),
  reflection: optional(gain('reflection')),
  refraction: optional(gain('refraction')),
  emission: optional(gain('emission')),
  environment: optional(gain('environment')),
  occlusion: optional(gain('occlusion')),
  exposure: optional(value(-10, 10, { label: 'exposure', unit: 'stops', neutral: 0 })),
  saturation: optional(gain('saturation')),
})
export type DeskRow = keyof (typeof DESK_COLUMN)['fields']
export const DESK_ROWS = Object.keys(DESK_COLUMN.fields) as DeskRow[]
export const DESK_NEUTRAL = Object.fromEntries(DESK_ROWS.map(row => [row, DESK_COLUMN.fields[row].neutral!])) as Record<
  DeskRow,
  number
>

export const BUILD = thing(
  {
    layers: rows(LAYER, 500),
    desk: titled(
      'Desk',
      thing({
        everything: DESK_COLUMN,
        objects: named(DESK_COLUMN, 65535, 'object'),
        /** Gains of groups of light. */
        lights: optional(titled('lights', named(value(0, 64, { neutral: 1 }), 65535))),
      }),
    ),
  },
  {
    faults: ({ layers }) =>
      (['plate', 'render'] as const).flatMap(kind =>
        Object.values(layers).filter(layer => layer.kind === kind).length === 1
          ? []
          : [`layers: there must be one ${kind} layer`],
      ),
  },
)

export type DeskColumn = ValueOf<typeof DESK_COLUMN>
export type PlateLayer = ValueOf<typeof PLATE_LAYER> & Row
export type RenderLayer = ValueOf<typeof RENDER_LAYER> & Row
export type PictureLayer = ValueOf<typeof PICTURE_LAYER> & Row
export type WashLayer = ValueOf<typeof WASH_LAYER> & Row
/** What stands flat at one distance. */
export type FlatLayer = PictureLayer | WashLayer
export type Layer = PlateLayer | RenderLayer | FlatLayer
