import { value } from '../declare/field'
import { point } from '../formula/point'
import { splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

const Invert = point('Invert', { amount: splat, white: splat }, ({ colour, values: { amount, white } }) =>
  colour.map(channel => channel.plus(white.minus(channel).minus(channel).times(amount))),
)

export const invert = treatment({
  id: 'invert',
  label: 'Invert',
  help: 'What was dark is light: each channel taken from white.',
  group: 'Numbers',
  sentence: 'Invert {amount} from {white}',
  values: {
    amount: value(0, 1, { label: 'amount', help: 'At 0.5 all is one grey.', step: 0.004, neutral: 0, first: 1 }),
    white: value(0, 100, { label: 'white', help: 'What each channel is taken from.', neutral: 1 }),
  },
  neutral: ['amount'],
  plan: (input, values) => pointNode(Invert, input, values, { straight: true }),
})
