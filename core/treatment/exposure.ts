import { value } from '../declare/field'
import { Gain } from '../../kernels/records'
import { pointNode, treatment } from './treatment'

export const exposure = treatment({
  id: 'exposure',
  label: 'Exposure',
  help: 'More or less light, in stops: each stop doubles it.',
  sentence: 'Expose {stops}',
  values: {
    stops: value(-10, 10, { label: 'exposure', help: 'Each stop doubles the light.', unit: 'stops', neutral: 0 }),
  },
  plan: (input, { stops }) => {
    const gain = 2 ** stops
    return pointNode(Gain, input, { gain: [gain, gain, gain, 1] })
  },
})
