import { choice, value } from '../declare/field'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { pointNode, whole } from '../plan/pointNode'
import { splat } from '../../kernels/record'
import { placesWithin, shape } from './shape'

const Tiled = point(
  'Tiled',
  { across: splat, down: splat, x: splat, y: splat },
  ({ colour, values: v }) =>
    new Colour(colour.red.minus(v.x).times(v.across), colour.green.minus(v.y).times(v.down), colour.blue),
)
export const repeat = shape({
  id: 'repeat',
  label: 'Repeat',
  help: 'The picture so many times beside and above itself, as tiles.',
  sentence: 'Repeated {across} times across and {down} down, moved {x} {y}, {how}',
  values: {
    across: value(0.01, 500, {
      label: 'across',
      help: 'How many times it stands in the width.',
      step: 0.01,
      neutral: 1,
      first: 2,
    }),
    down: value(0.01, 500, {
      label: 'down',
      help: 'How many times it stands in the height.',
      step: 0.01,
      neutral: 1,
      first: 2,
    }),
    x: value(-1e5, 1e5, {
      label: 'moved across',
      help: 'In pixels of the full frame.',
      unit: 'px',
      pixels: 'across',
      step: 0.5,
      digits: 1,
      neutral: 0,
    }),
    y: value(-1e5, 1e5, {
      label: 'moved down',
      help: 'In pixels of the full frame.',
      unit: 'px',
      pixels: 'down',
      step: 0.5,
      digits: 1,
      neutral: 0,
    }),
    how: choice(['each the same', 'each other one mirrored'], {
      label: 'joined',
      help: 'Mirrored ones meet without a seam.',
    }),
  },
  neutral: ['across', 'down', 'x', 'y'],
  beyond: 'its edge',
  places: (input, v, places) => {
    const tiled = pointNode(Tiled, whole(places), { across: v.across, down: v.down, x: v.x, y: v.y })
    return placesWithin(tiled, v.how === 'each the same' ? 'itself again' : 'a mirror', input)
  },
})
