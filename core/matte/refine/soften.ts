import { value } from '../../declare/field'
import { gaussian } from '../../plan/gaussian'
import { kernelNode } from '../../plan/node'
import { Grey, ShareOf } from '../../../kernels/records'
import { refiner } from './refiner'

export const soften = refiner({
  id: 'soften',
  label: 'Softened',
  help: 'Its edges, softened by a bell.',
  sentence: 'softened by {radius}',
  values: {
    radius: value(0, 500, {
      label: 'radius',
      help: 'Standard deviation of the bell.',
      unit: 'px',
      pixels: 'size',
      step: 0.1,
      digits: 1,
      neutral: 0,
      first: 4,
    }),
  },
  plan: ({ matte, width, height }, { radius }) => {
    const soft = gaussian(kernelNode(Grey, { source: matte }, { window: matte.window }), radius, { width, height })
    return kernelNode(ShareOf, { source: soft, which: 0 }, { window: soft.window })
  },
})
