// The things of the scene: how those of the file are changed, those that were added, and what is laid on them.
import { MAXIMUM_POINTS } from '../../scene/standin'
import {
  anyValue,
  choice,
  colourValues,
  either,
  flag,
  list,
  matrix,
  name,
  number,
  objectName,
  optional,
  orNull,
  pair,
  place,
  rows,
  text,
  thing,
  three,
  threeValues,
  value,
  type Row,
  type ValueOf,
} from './field'
import { PICTURE } from './picture'

/** A place of an object (metres, in its own space) dragged to where it belongs in the plate (pixels of the frame). */
export const PIN = thing({ local: three(), pixel: place() })

export const OBJECT = thing({
  /** Metres; absent: as in the file. */
  position: optional(threeValues(['across', 'up', 'along'])),
  rotation: optional(threeValues(['heading', 'tilt', 'bank'])),
  scale: optional(value(1e-4, 1e4, { label: 'scale' })),
  role: optional(choice(['object', 'catcher', 'holdout'], { label: 'role' })),
  hidden: optional(flag()),
  absent: optional(flag()),
  /** Not moved by the hand. */
  locked: optional(flag()),
  /** Name of the group that it is moved with. */
  group: optional(text(1, 200)),
  /** A catcher or holdout whose colour comes from the plate, for reflections and bounce. */
  ofPlate: optional(flag()),
  /** A catcher behind which things are still seen. */
  letsThrough: optional(flag()),
  /** Its shadow is kept on its own. */
  ownShadow: optional(flag()),
  /** Group that its own light counts in where light is told apart. */
  lightGroup: optional(text(0, 60, { refers: 'group of light' })),
  /** By occlusion: whether it darkens others, and is darkened; both unless said. */
  darkens: optional(flag()),
  darkened: optional(flag()),
  /** How much of what smooth wet ground would mirror of the objects this catcher mirrors, and its roughness. */
  wet: optional(value(0, 1, { label: 'wet' })),
  wetRoughness: optional(value(0, 1, { label: 'wet roughness' })),
  /** How much of the shadow on this catcher is laid on the plate; 1 as rendered. */
  shadowDensity: optional(value(0, 4, { label: 'shadow density', neutral: 1 })),
  /** Colour that this catcher's shadow is tinted with, linear Rec.709; 0 0 0 as rendered. */
  shadowColour: optional(colourValues('shadow ')),
  pins: optional(rows(PIN, 40)),
})

const NAMED = { name: text(1, 300) }
const side = (label: string): ReturnType<typeof value> => value(0.001, 1e5, { label, unit: 'm' })
/** An object that is not in the file: a copy of one, or a stand-in for something in the plate. */
export const ADDED = either('kind', {
  copy: thing({ ...NAMED, kind: choice(['copy']), of: objectName() }, { title: ({ name }) => name }),
  standin: thing(
    {
      ...NAMED,
      kind: choice(['standin']),
      shape: choice(['box', 'cylinder', 'plane', 'ball', 'profile', 'outline']),
      width: side('width'),
      height: side('height'),
      depth: side('depth'),
      points: list(pair(), MAXIMUM_POINTS),
      /** Linear Rec.709 where it does not take its colour from the plate. */
      colour: three(0, 1),
      roughness: value(0, 1, { label: 'roughness' }),
    },
    { title: ({ name }) => name },
  ),
})

/** A picture laid on an object, in the object's own space. */
export const PRINT = thing(
  {
    name: name(),
    on: objectName(),
    shown: flag(),
    picture: PICTURE,
    /** Along parallel lines, or from a point as a camera would throw it. */
    from: choice(['front', 'camera']),
    /** What throws it: place and attitude (looks along -Z, up is +Y) in the object's own space, column-major. */
    matrix: matrix(),
    /** Half width of the throw at one metre; only from a camera. */
    tangent: number(0, 1000),
    /** Width on the object in metres (front), or as a share of the camera's view (camera). */
    size: value(0.0001, 10000, { label: 'size' }),
    /** Degrees, and shares of its width. */
    turn: anyValue({ label: 'turn' }),
    shiftX: anyValue({ label: 'shift across' }),
    shiftY: anyValue({ label: 'shift up' }),
    opacity: value(0, 1, { label: 'opacity' }),
    instead: flag(),
    roughness: orNull(value(0, 1, { label: 'roughness' })),
  },
  { title: ({ name }) => name },
)

export type Pin = ValueOf<typeof PIN> & Row
export type ObjectSettings = ValueOf<typeof OBJECT>
export type AddedObject = ValueOf<typeof ADDED> & Row
export type PrintSettings = ValueOf<typeof PRINT> & Row
