import { value } from '../declare/field'
import { Saturation } from '../../kernels/records'
import { pointNode, treatment } from './treatment'

export const saturation = treatment({
  id: 'saturation',
  label: 'Saturation',
  help: 'Distance of colours from grey of the same luminance (Rec.709).',
  sentence: 'Saturate {amount}',
  values: { amount: value(0, 4, { label: 'saturation', help: '0 is grey, 1 as it was.', step: 0.005, neutral: 1 }) },
  plan: (input, { amount }) => pointNode(Saturation, input, { amount }),
})
