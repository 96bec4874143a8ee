import { Gain } from '../../kernels/records'
import { pointWork, type Treatment } from './treatment'

export const exposure: Treatment = {
  id: 'exposure',
  label: 'Exposure',
  help: 'More or less light, in stops: each stop doubles it.',
  sentence: 'Expose {stops}',
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
  point: pointWork(Gain, {
    given: ({ stops }) => {
      const gain = 2 ** stops!
      return { gain: [gain, gain, gain, 1] as const }
    },
  }),
}
