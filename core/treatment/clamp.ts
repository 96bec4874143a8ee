import { value } from '../declare/field'
import { point } from '../formula/point'
import { splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

/** The largest number of a half float (IEEE 754 binary16). */
const MOST = 65504
/** What is no number becomes the least. */
const Clamp = point('Clamp', { low: splat, high: splat }, ({ colour, values: { low, high } }) =>
  colour.map(channel => high.atMost(low.atLeast(channel))),
)

export const clamp = treatment({
  id: 'clamp',
  label: 'Clamp',
  help: 'Holds each channel between two values.',
  group: 'Numbers',
  sentence: 'Hold between {low} and {high}',
  values: {
    low: value(-MOST, MOST, {
      label: 'least',
      help: 'What is less becomes this; so does what is no number.',
      hand: [-10, 10],
      neutral: -MOST,
      first: 0,
    }),
    high: value(-MOST, MOST, {
      label: 'most',
      help: 'What is more becomes this.',
      hand: [-10, 100],
      neutral: MOST,
      first: 1,
    }),
  },
  shown: { low: 0.05, high: 0.25 },
  plan: (input, { low, high }) => pointNode(Clamp, input, { low, high: Math.max(low, high) }, { straight: true }),
})
