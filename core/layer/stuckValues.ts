// What a stuck drawing is told by: on which frame it lies as it is drawn, what it lies on, from when it is there.
import { anyValue, choice, value, type About } from '../declare/field'
import type { ValuesAt } from '../declare/values'
import { placeMetres } from './figureValues'
import { share } from './layer'
import type { InScene } from './wordsPlace'

export const ON_THINGS = 'what the render shows'
export const STUCK_TO = [ON_THINGS, 'a wall of the plate', 'the ground'] as const
const only = (...is: (typeof STUCK_TO)[number][]): Pick<About, 'with'> => ({ with: { name: 'onto', is } })
const inPlane = only('a wall of the plate', 'the ground')
const frame = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(-1e6, 1e6, { label, help, step: 0.1, digits: 0, first })

export const STUCK_VALUES = {
  onto: choice(STUCK_TO, {
    label: 'lies on',
    help: 'Things of the render however they turn, move and bend; or a flat place of footage, by the tracked camera.',
    first: ON_THINGS,
  }),
  placed: frame('frame', 'The frame on whose picture it is drawn.', 1),
  appears: frame('first frame', 'The frame from which it is there.', 1),
  lit: {
    ...share('lit', '1: it has the light that falls on the thing, and its mirroring; 0: its own colour as it is.', 1),
    ...only(ON_THINGS),
  },
  x: { ...placeMetres('x', 'A place of the wall, in the world.', 0), ...only('a wall of the plate') },
  y: { ...placeMetres('y', 'Height of the ground.', 0), ...only('the ground') },
  z: { ...placeMetres('z', 'Less is farther from a camera that looks along it.', -8), ...only('a wall of the plate') },
  turn: {
    ...anyValue({
      label: 'turn',
      help: 'Of the wall: from across (+X), counter-clockwise from above.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 0,
    }),
    ...only('a wall of the plate'),
  },
  close: {
    ...value(0, 1000, {
      label: 'close',
      help: 'It is seen before what is no farther than that before it: the wall or ground that it is on.',
      unit: 'm',
      step: 0.005,
      first: 0.05,
    }),
    ...inPlane,
  },
}
export type StuckValues = ValuesAt<typeof STUCK_VALUES>

/** The plane that it lies in; undefined for what lies on things. */
export const planeOfStuck = ({ onto, x, y, z, turn }: StuckValues): InScene | undefined =>
  onto === ON_THINGS
    ? undefined
    : onto === 'the ground'
      ? { put: 'on the ground', x: 0, y, z: 0, turn: 0, lean: 0, size: 1 }
      : { put: 'upright', x, y: 0, z, turn, lean: 0, size: 1 }
