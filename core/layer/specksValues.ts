// What specks are told by: how many there are, where, how they move, how they look.
import { choice, colourValues, number, value } from '../declare/field'
import type { EntryFields, ValuesAt } from '../declare/values'
import { placeMetres } from './figureValues'
import { share } from './layer'

const inBox = { with: { name: 'where', is: ['in a box'] } } as const
const asLens = { with: { name: 'blurred', is: ['as by a lens'] } } as const
const side = (label: string, first: number): ReturnType<typeof value> =>
  value(0.001, 1e5, { label, unit: 'm', step: 0.02, hand: [0.001, 10000], first })
const speed = (label: string, help: string, first: number, low = 0): ReturnType<typeof number> =>
  number(low, 1000, { label, help, unit: 'm/s', step: 0.01, first })
export const SPECKS_VALUES = {
  density: number(1e-6, 1e6, {
    label: 'how many',
    help: 'In each cubic metre of air.',
    step: 0.05,
    digits: 3,
    first: 4,
  }),
  there: share('there', 'Of so many of them: give it keys to let them come or go.', 1),
  near: value(0.01, 1e4, {
    label: 'nearest',
    help: 'Nothing is nearer to the camera; they come in softly.',
    unit: 'm',
    step: 0.01,
    first: 0.8,
  }),
  far: value(0.02, 1e5, {
    label: 'farthest',
    help: 'Nothing is farther; they go softly.',
    unit: 'm',
    step: 0.05,
    hand: [0.02, 10000],
    first: 20,
  }),
  where: choice(['everywhere', 'in a box'], { label: 'where', neutral: 'everywhere' }),
  x: { ...placeMetres('x', 'Middle of the box.', 0), ...inBox },
  y: { ...placeMetres('y', 'Middle of the box.', 1), ...inBox },
  z: { ...placeMetres('z', 'Middle of the box.', -6), ...inBox },
  wide: { ...side('wide', 3), ...inBox },
  tall: { ...side('tall', 3), ...inBox },
  deep: { ...side('deep', 3), ...inBox },
  floor: placeMetres('floor', 'Height of the ground, under which there are none.', 0),
  size: value(0.001, 1e5, {
    label: 'size',
    help: 'How thick each is.',
    unit: 'mm',
    step: 0.02,
    hand: [0.001, 10000],
    first: 3,
  }),
  sizes: share('sizes', 'Each is larger or smaller by up to so much.', 0, 0.95),
  long: value(1, 100, { label: 'long', help: 'How many times as long as thick.', step: 0.02, neutral: 1 }),
  soft: { ...share('soft', 'How much of its radius its border takes.', 0), first: 0.5 },
  fall: speed('fall', 'How fast it sinks; below nothing it rises.', 1, -1000),
  wind: speed('wind', 'How fast the air goes.', 0),
  heading: number(-3600, 3600, {
    label: 'heading',
    help: 'Where the wind blows to: 0 into the scene (-Z), 90 to the right (+X).',
    unit: '°',
    step: 0.5,
    digits: 1,
    first: 90,
  }),
  speeds: { ...share('speeds', 'Some are faster and some slower by so much.', 0, 0.95), first: 0.2 },
  sway: value(0, 1000, {
    label: 'sway',
    help: 'How far each goes to and fro about its way.',
    unit: 'm',
    step: 0.002,
    digits: 3,
    neutral: 0,
  }),
  sway_seconds: number(0.05, 1000, { label: 'seconds of a sway', unit: 's', step: 0.01, first: 3 }),
  turning: number(0, 100, {
    label: 'turning',
    help: 'How often each turns about itself in a second: what is flat shows its side and its edge.',
    unit: '/s',
    step: 0.01,
    neutral: 0,
  }),
  colour: colourValues('', { help: 'Linear Rec.709.', first: [0.8, 0.85, 0.9] }),
  other: colourValues('other ', { help: 'Each is of a colour between the two.', first: [0.8, 0.85, 0.9] }),
  hides: { ...share('hides', 'How much each hides what is behind it: 1 as snow does, 0 as a spark.', 0), first: 0.6 },
  lit: share(
    'lit',
    '0 as bright as its colour; 1 as bright as that is in the light of the scene, each by where it is.',
    0,
  ),
  glitter: share('glitter', 'How much each is brighter now and darker then, as it turns.', 0),
  shutter: value(0, 1, {
    label: 'shutter',
    help: 'How much of a frame it is open: how long a way each leaves. 0.5 is a half circle.',
    step: 0.004,
    first: 0.5,
  }),
  blurred: choice(['not', 'as by a lens'], {
    label: 'blurred',
    help: 'Whether those that are out of focus are soft here; the line Focus of the lens has its own.',
    neutral: 'not',
  }),
  sharp_at: {
    ...value(0.05, 1e5, { label: 'sharp at', unit: 'm', step: 0.02, hand: [0.05, 10000], first: 8 }),
    ...asLens,
  },
  stop: { ...value(0.5, 128, { label: 'f-number', step: 0.02, first: 2.8 }), ...asLens },
  seed: value(0, 9999, { label: 'seed', help: 'Another number, others.', step: 0.1, digits: 0, first: 1 }),
} as const satisfies EntryFields
export type SpecksValues = ValuesAt<typeof SPECKS_VALUES>
