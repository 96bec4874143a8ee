import { value } from '../declare/field'
import { point } from '../formula/point'
import { splat } from '../../kernels/record'
import { pointNode, treatment } from './treatment'

export const Saturation = point('Saturation', { amount: splat }, ({ colour, values: { amount } }) => {
  const grey = colour.luminance()
  return colour.map(channel => grey.plus(channel.minus(grey).times(amount)))
})

export const saturation = treatment({
  id: 'saturation',
  label: 'Saturation',
  help: 'Distance of colours from grey of the same luminance (Rec.709).',
  sentence: 'Saturate {amount}',
  values: { amount: value(0, 4, { label: 'saturation', help: '0 is grey, 1 as it was.', step: 0.005, neutral: 1 }) },
  plan: (input, { amount }) => pointNode(Saturation, input, { amount }),
})
