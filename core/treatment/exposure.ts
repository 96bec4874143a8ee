import { value } from '../declare/field'
import { point } from '../formula/point'
import { shade } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

/** Each channel times its own factor. */
export const Gain = point('Gain', { gain: shade }, ({ colour, values }) => colour.times(values.gain))

export const exposure = treatment({
  id: 'exposure',
  label: 'Exposure',
  help: 'More or less light, in stops: each stop doubles it.',
  group: 'Light',
  sentence: 'Expose {stops}',
  values: {
    stops: value(-10, 10, { label: 'exposure', help: 'Each stop doubles the light.', unit: 'stops', neutral: 0 }),
  },
  shown: { stops: 1 },
  plan: (input, { stops }) => {
    const gain = 2 ** stops
    return pointNode(Gain, input, { gain: [gain, gain, gain] })
  },
})
