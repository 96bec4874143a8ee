// What an element is told by: where it stands and how large it is, how its copies differ, how it fades and is lit.
import { anyValue, choice, colourValues, value } from '../declare/field'
import type { EntryFields, ValuesAt } from '../declare/values'
import { placeMetres } from './figureValues'
import { share } from './layer'

const degrees = { unit: '°', step: 0.2, digits: 1 } as const
const far = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(0, 1e5, { label, help, unit: 'm', step: 0.02, hand: [0, 10000], first })
const spreads = (...is: string[]): { with: { name: string; is: string[] } } => ({ with: { name: 'spread', is } })
export const ELEMENT_VALUES = {
  x: placeMetres('x', 'Of its middle, in the world; of its foot where it stands on the ground.', 0),
  y: placeMetres('y', 'Height of its middle; of the ground where it stands on that.', 1),
  z: placeMetres('z', 'Of its middle; less is farther from a camera that looks along it.', -8),
  size: value(0.001, 1e5, {
    label: 'size',
    help: 'Height of its picture where it stands.',
    unit: 'm',
    step: 0.01,
    hand: [0.001, 10000],
    first: 2,
  }),
  turn: anyValue({ ...degrees, label: 'turn', help: 'Clockwise as it is seen.', neutral: 0 }),
  facing: choice(['as taken', 'mirrored'], { label: 'facing', neutral: 'as taken' }),
  thickness: value(0, 1e5, {
    label: 'thickness',
    help: 'How thick it is along the view: what stands within it comes out of it by and by, its nearest part first.',
    unit: 'm',
    step: 0.01,
    hand: [0, 10000],
    neutral: 0,
  }),
  taken: choice(['on black', 'with alpha'], {
    label: 'taken',
    help: 'Whether black is where nothing is, or its alpha says that.',
    first: 'on black',
  }),
  black: {
    ...value(0, 0.9, {
      label: 'black level',
      help: 'What is no brighter than this is nothing: stray light of what it was taken before.',
      step: 0.001,
      digits: 3,
      neutral: 0,
    }),
    with: { name: 'taken', is: ['on black'] },
  },
  hides: {
    ...share(
      'hides',
      'How much its bright parts hide what is behind them: 1 as smoke does, 0 next to nothing, as fire.',
      0,
      4,
    ),
    first: 1,
    with: { name: 'taken', is: ['on black'] },
  },
  edges: value(0, 0.5, {
    label: 'edges',
    help: 'Where its picture was cut off by its frame it fades out, over so much of its height.',
    step: 0.002,
    neutral: 0,
  }),
  dissolved: share('dissolved', '0 all of it is there, 1 nothing: it goes in patches.', 0),
  patch: value(0.02, 4, {
    label: 'patches',
    help: 'How large the patches are in which it goes, in heights of its picture.',
    step: 0.005,
    first: 0.25,
  }),
  speed: value(0, 100, {
    label: 'speed',
    help: 'Of its clip, beside what its timing says: 1 as it is.',
    step: 0.005,
    neutral: 1,
  }),
  offset: anyValue({ label: 'offset', help: 'Frames by which its clip is ahead.', step: 0.2, digits: 1, neutral: 0 }),
  copies: value(1, 200, { label: 'copies', step: 0.1, digits: 0, neutral: 1 }),
  spread: choice(['in one place', 'along a line', 'in a region', 'on the ground'], {
    label: 'spread',
    help: 'Where its copies stand.',
    neutral: 'in one place',
  }),
  end_x: { ...placeMetres('end x', 'Where the line ends.', 4), ...spreads('along a line') },
  end_y: { ...placeMetres('end y', 'Where the line ends.', 1), ...spreads('along a line') },
  end_z: { ...placeMetres('end z', 'Where the line ends.', -12), ...spreads('along a line') },
  wide: { ...far('wide', 'The region, across (X).', 4), ...spreads('in a region', 'on the ground') },
  tall: { ...far('tall', 'The region, up (Y).', 2), ...spreads('in a region') },
  deep: { ...far('deep', 'The region, away (Z).', 4), ...spreads('in a region', 'on the ground') },
  seed: value(0, 9999, { label: 'seed', help: 'Another number, other copies.', step: 0.1, digits: 0, first: 1 }),
  turns: value(0, 180, { ...degrees, label: 'turns', help: 'Each copy is turned by up to so much.', neutral: 0 }),
  sizes: share('sizes', 'Each copy is larger or smaller by up to so much.', 0, 0.95),
  mirrored: share('mirrored', 'Of so many copies the sides are changed.', 0),
  offsets: value(0, 10000, {
    label: 'offsets',
    help: 'Each copy is ahead or behind by up to so many frames, no two the same.',
    unit: 'frames',
    step: 0.2,
    digits: 1,
    neutral: 0,
  }),
  speeds: share('speeds', 'Each copy is faster or slower by up to so much.', 0, 0.95),
  lit: share(
    'lit',
    '0 as bright as its picture; 1 as bright as something white of its brightness is in the light of the scene there.',
    0,
  ),
  by: choice(['all lights', 'one light'], { label: 'lit by', neutral: 'all lights' }),
  tint: colourValues('tint ', { help: 'What its colour is multiplied by.', neutral: 1 }),
  flicker: share('flicker', 'It goes up and down in brightness by up to so much.', 0, 4),
  flicker_frames: value(0.5, 10000, {
    label: 'frames of a flicker',
    help: 'Frames from one flicker to the next, about.',
    unit: 'frames',
    step: 0.05,
    digits: 1,
    first: 3,
  }),
} as const satisfies EntryFields
export type ElementValues = ValuesAt<typeof ELEMENT_VALUES>
