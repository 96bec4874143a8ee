// What standing water is told by: where it lies, its waves, what it shows.
import { choice, colourValues, number, value } from '../declare/field'
import type { EntryFields, ValuesAt } from '../declare/values'
import { placeMetres } from './figureValues'
import { share } from './layer'

const length = (label: string, help: string, first: number): ReturnType<typeof number> =>
  number(0.005, 1000, { label, help, unit: 'm', step: 0.005, digits: 3, first })
const steep = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(0, 0.6, { label, help, step: 0.001, digits: 3, first })
export const WATER_VALUES = {
  level: placeMetres('level', 'Height of the water in the world.', 0),
  shore: value(0.1, 1e5, {
    label: 'shore',
    help: 'How far away it ends. What no distance is known of is taken to stand there, upright: the plate, the sky.',
    unit: 'm',
    step: 0.05,
    hand: [0.1, 10000],
    first: 60,
  }),
  mirrors: { ...share('mirrors', 'How much it mirrors: 1 as water does, by Fresnel.', 0, 4), first: 1 },
  clear: {
    ...share('clear', 'How much of what lies under it is seen: 1 all that it does not mirror.', 0),
    first: 0.15,
  },
  water: colourValues('water ', { help: 'The colour of its depth, linear Rec.709.', first: [0.012, 0.02, 0.024] }),
  wave_length: length('waves', 'From one wave to the next.', 1.6),
  wave_steep: steep('steep', 'How steep the waves are, as a standard deviation of their slopes.', 0.03),
  ripple_length: length('ripples', 'From one ripple to the next.', 0.14),
  ripple_steep: steep('steep ripples', 'How steep the ripples are.', 0.04),
  heading: number(-3600, 3600, {
    label: 'wind to',
    help: 'Where the wind blows to: 0 into the scene (-Z), 90 to the right (+X).',
    unit: '°',
    step: 0.5,
    digits: 1,
    first: 60,
  }),
  speed: number(0, 20, { label: 'speed', help: '1 as fast as waves of that length go.', step: 0.01, first: 1 }),
  rough: value(0, 0.5, {
    label: 'rough',
    help: 'Slopes finer than the ripples, as a standard deviation: what it mirrors is drawn out by them.',
    step: 0.0005,
    digits: 4,
    first: 0.004,
  }),
  glitter: { ...share('glitter', 'How bright lights glitter on it: 1 as they do.', 0, 20), first: 1 },
  glitter_of: choice(['suns', 'all lights'], {
    label: 'glitter of',
    help: 'Lamps that are seen themselves are mirrored already.',
    neutral: 'suns',
  }),
  rim: value(0, 100, {
    label: 'wet rim',
    help: 'So high above it what stands in it is wet.',
    unit: 'm',
    step: 0.005,
    digits: 3,
    first: 0.05,
  }),
  rim_dark: { ...share('rim dark', 'How much darker what is wet is.', 0), first: 0.4 },
  thick: value(0, 1e4, {
    label: 'thick',
    help: 'How thick things are taken for, of which only the front is known.',
    unit: 'm',
    step: 0.02,
    first: 0.1,
  }),
  seed: value(0, 9999, { label: 'seed', help: 'Another number, other waves.', step: 0.1, digits: 0, first: 1 }),
} as const satisfies EntryFields
export type WaterValues = ValuesAt<typeof WATER_VALUES>
