// What words are told by: where they stand, how large they are, how they are set.
import { anyValue, choice, colourValues, value, type About } from '../declare/field'
import type { EntryFields, ValuesAt } from '../declare/values'
import { placeMetres } from './figureValues'
import { DISTANCE } from './layer'

export const PUTS = ['on the picture', 'facing the camera', 'upright', 'on the ground'] as const
const only = (...is: (typeof PUTS)[number][]): Pick<About, 'with'> => ({ with: { name: 'put', is } })
const inScene = only('facing the camera', 'upright', 'on the ground')
const ofFrame = (pixels: 'across' | 'down', first: number): ReturnType<typeof value> =>
  value(-1e6, 1e6, { label: pixels, unit: 'px', pixels, step: 1, digits: 0, hand: [-20000, 20000], first })
/** Of the curve that they run along. */
const curvePlace = (label: string, first: number): EntryFields[string] => ({
  ...anyValue({ label, help: 'From where the line begins, in heights of capitals.', step: 0.02, first }),
  with: { name: 'runs', is: ['along a curve'] },
})

export const WORDS_VALUES = {
  put: choice(PUTS, {
    label: 'stand',
    help: 'On the picture wherever the camera looks, or in the scene: toward the camera, upright as on a wall, flat on the ground.',
    first: 'facing the camera',
  }),
  across: { ...ofFrame('across', 640), ...only('on the picture') },
  down: { ...ofFrame('down', 360), ...only('on the picture') },
  away: { ...DISTANCE, ...only('on the picture') },
  x: { ...placeMetres('x', 'Where the first line stands, in the world.', 0), ...inScene },
  y: { ...placeMetres('y', 'Height of the first line.', 1), ...inScene },
  z: { ...placeMetres('z', 'Less is farther from a camera that looks along it.', -8), ...inScene },
  turn: {
    ...anyValue({
      label: 'turn',
      help: 'From across (+X), counter-clockwise from above.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 0,
    }),
    ...only('upright', 'on the ground'),
  },
  close: {
    ...value(0, 1000, {
      label: 'close',
      help: 'They are seen before what is no farther than that before them: the wall or ground that they are on.',
      unit: 'm',
      step: 0.005,
      first: 0.05,
    }),
    ...only('upright', 'on the ground'),
  },
  letters: {
    ...value(0.1, 1e5, { label: 'letters', help: 'Height of capitals.', unit: 'px', step: 0.5, digits: 1, first: 60 }),
    ...only('on the picture'),
  },
  size: {
    ...value(1e-4, 1e5, { label: 'size', help: 'Height of capitals.', unit: 'm', step: 0.005, first: 0.4 }),
    ...inScene,
  },
  lean: value(-360, 360, { label: 'lean', help: 'Clockwise.', unit: '°', step: 0.5, digits: 1, neutral: 0 }),
  weight: value(100, 900, {
    label: 'weight',
    help: '400 regular, 700 bold, in fonts that can be set at any.',
    step: 2,
    digits: 0,
    first: 400,
  }),
  tracking: value(-1, 10, {
    label: 'tracking',
    help: 'Put between letters, in ems.',
    step: 0.002,
    digits: 3,
    neutral: 0,
  }),
  line_height: value(0, 10, {
    label: 'line height',
    help: 'From one line to the next, in ems.',
    step: 0.01,
    first: 1.2,
  }),
  align: choice(['left', 'centre', 'right'], { label: 'aligned', first: 'centre' }),
  runs: choice(['straight', 'along an arc', 'along a curve'], { label: 'run', neutral: 'straight' }),
  bend: {
    ...value(-360, 360, {
      label: 'bend',
      help: 'By which the longest line turns: more than nothing, and its ends go down.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 60,
    }),
    with: { name: 'runs', is: ['along an arc'] },
  },
  first_x: curvePlace('first handle, across', 3),
  first_y: curvePlace('first handle, down', -2),
  second_x: curvePlace('second handle, across', 6),
  second_y: curvePlace('second handle, down', 2),
  end_x: curvePlace('end, across', 9),
  end_y: curvePlace('end, down', 0),
  colour: colourValues('', { help: 'Linear Rec.709.', first: [0.9, 0.88, 0.82] }),
  bright: value(-20, 20, { label: 'brighter', help: 'Than that colour.', unit: 'stops', step: 0.02, neutral: 0 }),
} as const satisfies EntryFields

export type WordsValues = ValuesAt<typeof WORDS_VALUES>
