import { choice } from '../declare/field'
import { point } from '../formula/point'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

const Multiplied = point('Multiplied', {}, ({ colour, alpha }) => colour.times(alpha))
/** Colour by itself: divided by alpha, where there is any. */
export const Divided = point('Divided', {}, ({ colour, alpha }) =>
  colour.map(channel => alpha.isAbove(0).choose(channel.over(alpha), channel)),
)

export const premultiply = treatment({
  id: 'premultiply',
  label: 'Coverage in colour',
  help: 'Multiplies colour by coverage, or divides it: for pictures that came in the other way.',
  group: 'Numbers',
  sentence: 'Colour {how} by coverage',
  beside: true,
  values: {
    how: choice(['left', 'multiplied', 'divided'], {
      label: 'how',
      help: 'Left as it is, multiplied by alpha, or divided by it.',
      neutral: 'left',
      first: 'multiplied',
    }),
  },
  plan: (input, { how }) => pointNode(how === 'divided' ? Divided : Multiplied, input, {}),
})
