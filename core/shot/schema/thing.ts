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
  pull,
  rows,
  text,
  thing,
  three,
  threeValues,
  value,
  type Row,
  type ValueOf,
} from '../../declare/field'
import { MOST_CORNERS } from '../../scene/pulled'
import { MOST_STEPS, SHARP_FROM } from '../../scene/subdivide'
import { PICTURE } from './picture'

/** A place of an object (metres, in its own space) dragged to where it belongs in the plate (pixels of the frame). */
export const PIN = thing({ local: three(), pixel: place() })

export const OBJECT = thing({
  /** Metres; absent: as in the file. */
  position: optional(threeValues(['across', 'up', 'along'], { hand: [-10000, 10000] })),
  rotation: optional(threeValues(['heading', 'tilt', 'bank'], { hand: [-3600, 3600], step: 0.2, digits: 1 })),
  scale: optional(value(1e-4, 1e4, { label: 'scale', hand: [0.001, 1000], step: 0.003, neutral: 1 })),
  role: optional(choice(['object', 'catcher', 'holdout'], { label: 'role' })),
  hidden: optional(flag()),
  absent: optional(flag()),
  /** Made rounder by subdivision: steps of it; edges between faces that bend by so much stay sharp. */
  roundSteps: optional(
    value(0, MOST_STEPS, {
      label: 'steps of rounding',
      help: 'Each makes four faces of one and draws them to a smooth surface; 0 as it was modelled.',
      step: 1,
      digits: 0,
      neutral: 0,
    }),
  ),
  roundAngle: optional(
    value(0, 180, {
      label: 'edges stay sharp from',
      help: 'Degrees between two faces from which the edge between them stays sharp; 180 rounds all.',
      unit: 'deg',
      step: 0.5,
      digits: 0,
      first: SHARP_FROM,
    }),
  ),
  /** Corners of its mesh that were pulled elsewhere: the number of each, and how far in its own space, metres. */
  pulled: optional(list(pull(), MOST_CORNERS)),
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
  lightGroup: optional(text(0, 60)),
  /** By occlusion: whether it darkens others, and is darkened; both unless said. */
  darkens: optional(flag()),
  darkened: optional(flag()),
  /** How much of what smooth wet ground would mirror of the objects this catcher mirrors, and its roughness. */
  wet: optional(
    value(0, 1, {
      label: 'wetness',
      help: 'How much of what smooth wet ground mirrors of the objects it mirrors, in the pass “wet ground”.',
      step: 0.004,
      neutral: 0,
    }),
  ),
  wetRoughness: optional(value(0, 1, { label: 'roughness of the water', step: 0.004, neutral: 0 })),
  /** How much of the shadow on this catcher is laid on the plate; 1 as rendered. */
  shadowDensity: optional(
    value(0, 4, {
      label: 'shadow density',
      help: 'Laid on afterwards: nothing is rendered again.',
      step: 0.005,
      neutral: 1,
    }),
  ),
  /** Colour that this catcher's shadow is tinted with, linear Rec.709; 0 0 0 as rendered. */
  shadowColour: optional(
    colourValues('shadow ', { help: 'Light that fills the shadow in, of the plate’s own.', hand: [0, 1], neutral: 0 }),
  ),
  pins: optional(rows(PIN, 40)),
})

const NAMED = { name: text(1, 300) }
const side = (label: string): ReturnType<typeof value> => value(0.001, 1e5, { label, hand: [0.001, 10000], unit: 'm' })
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
      roughness: value(0, 1, { label: 'roughness', step: 0.004 }),
    },
    { title: ({ name }) => name },
  ),
})

const SHIFT = { help: 'In widths of the picture.', hand: [-100, 100] as const, step: 0.003, digits: 3, neutral: 0 }
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
    size: value(0.0001, 10000, { label: 'width', hand: [0.0001, 1000], step: 0.003, digits: 3 }),
    /** Degrees, and shares of its width. */
    turn: anyValue({ label: 'turn', hand: [-3600, 3600], step: 0.2, digits: 1, unit: 'deg', neutral: 0 }),
    shiftX: anyValue({ ...SHIFT, label: 'shift across' }),
    shiftY: anyValue({ ...SHIFT, label: 'shift up' }),
    opacity: value(0, 1, { label: 'opacity', step: 0.004, neutral: 1 }),
    instead: flag(),
    roughness: orNull(value(0, 1, { label: 'roughness', step: 0.004 })),
  },
  { title: ({ name }) => name },
)

export type Pin = ValueOf<typeof PIN> & Row
export type ObjectSettings = ValueOf<typeof OBJECT>
export type AddedObject = ValueOf<typeof ADDED> & Row
export type PrintSettings = ValueOf<typeof PRINT> & Row
