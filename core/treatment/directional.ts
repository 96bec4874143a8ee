import { value } from '../declare/field'
import { along, lineTaps } from '../plan/along'
import { finite } from '../plan/finite'
import { treatment } from './treatment'

export const directional = treatment({
  id: 'directional',
  label: 'Blur along a direction',
  help: 'Softens along one direction: the speed of a still cut-out, a smear.',
  group: 'Softness',
  sentence: 'Blur over {length} along {angle}, {behind} of it behind',
  beside: true,
  values: {
    length: value(0, 2000, {
      label: 'length',
      help: 'Of the whole way, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 1,
      neutral: 0,
      first: 30,
    }),
    angle: value(-3600, 3600, {
      label: 'angle',
      help: 'Counter-clockwise from the right.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 0,
    }),
    behind: value(0, 1, {
      label: 'behind',
      help: 'How much of the way lies behind where a thing is: 0.5 as much as before it, 1 all.',
      step: 0.004,
      first: 0.5,
    }),
  },
  neutral: ['length'],
  shown: { length: 60, angle: 20 },
  plan: (input, { length, angle, behind }) =>
    along(finite(input.colour), input, lineTaps(length, (angle * Math.PI) / 180, behind)),
})
