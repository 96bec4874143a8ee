// What a light accent is told by: where it is, what it gives off, its halo.
import { choice, colourValues, value } from '../declare/field'
import type { EntryFields, ValuesAt } from '../declare/values'
import { placeMetres } from './figureValues'
import { share } from './layer'

export const ACCENT_VALUES = {
  x: placeMetres('x', 'Where it is, in the world.', 0),
  y: placeMetres('y', 'Its height.', 1.5),
  z: placeMetres('z', 'Less is farther from a camera that looks along it.', -7),
  colour: colourValues('', { help: 'Of its light, linear Rec.709.', first: [1, 0.62, 0.3] }),
  stops: value(-30, 30, {
    label: 'strength',
    help: 'Stops over one watt into each steradian.',
    unit: 'stops',
    step: 0.02,
    first: 2,
  }),
  radius: value(1e-3, 100, {
    label: 'radius',
    help: 'How large it is: nearer than that it grows no brighter.',
    unit: 'm',
    step: 0.002,
    digits: 3,
    first: 0.05,
  }),
  falls: choice(['on the ground too', 'on the render alone'], {
    label: 'falls',
    help: 'Whether it lights the ground of the plate as well, and what stands on it: that is made as much brighter as the accent adds to the light of the scene there.',
    neutral: 'on the ground too',
  }),
  level: { ...placeMetres('ground', 'Height of the ground.', 0), with: { name: 'falls', is: ['on the ground too'] } },
  halo: { ...share('halo', 'How much of its light the air round it sends: 0 none.', 0, 10), first: 0.05 },
  halo_size: value(1e-3, 1000, {
    label: 'halo size',
    help: 'How far from it the halo has lost two thirds of its light.',
    unit: 'm',
    step: 0.005,
    first: 0.25,
  }),
} as const satisfies EntryFields

export type AccentValues = ValuesAt<typeof ACCENT_VALUES>
