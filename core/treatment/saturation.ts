import { Saturation } from '../../kernels/records'
import { pointWork, type Treatment } from './treatment'

export const saturation: Treatment = {
  id: 'saturation',
  label: 'Saturation',
  help: 'Distance of colours from grey of the same luminance (Rec.709).',
  sentence: 'Saturate {amount}',
  parameters: [
    {
      id: 'amount',
      label: 'saturation',
      help: '0 is grey, 1 as it was.',
      unit: '',
      low: 0,
      high: 4,
      step: 0.005,
      neutral: 1,
      digits: 2,
    },
  ],
  point: pointWork(Saturation, { given: ({ amount }) => ({ amount: amount! }) }),
}
