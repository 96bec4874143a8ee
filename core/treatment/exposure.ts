import { float } from '../engine/pool'
import { KERNEL_GAIN } from '../../kernels/assembly/layout'
import type { Treatment } from './treatment'

export const exposure: Treatment = {
  id: 'exposure',
  label: 'Exposure',
  help: 'More or less light, in stops: each stop doubles it.',
  sentence: 'Expose {stops}',
  kernel: KERNEL_GAIN,
  unpremultiplied: false,
  parameters: [
    {
      id: 'stops',
      label: 'exposure',
      help: 'Each stop doubles the light.',
      unit: 'stops',
      low: -10,
      high: 10,
      step: 0.01,
      neutral: 0,
      digits: 2,
    },
  ],
  words: ({ stops }) => {
    const gain = float(2 ** stops!)
    return [gain, gain, gain, float(1)]
  },
}
