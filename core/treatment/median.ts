import { value } from '../declare/field'
import { finite } from '../plan/finite'
import { kernelNode } from '../plan/node'
import { inRoom } from '../plan/room'
import { Median } from '../../kernels/records'
import { treatment } from './treatment'

export const median = treatment({
  id: 'median',
  label: 'Median',
  help: 'Puts in each pixel the middle one of those about it: single bright dots, dust and scratches go, edges stay.',
  group: 'Softness',
  sentence: 'The middle one within {radius}',
  beside: true,
  values: {
    radius: value(0, 8, {
      label: 'radius',
      help: 'Half the side of the square beside the pixel itself, in whole pixels of what is worked at.',
      unit: 'px',
      pixels: 'size',
      step: 0.02,
      digits: 1,
      neutral: 0,
      first: 1,
    }),
  },
  shown: { radius: 4 },
  plan: (input, { radius }) => {
    const pixels = Math.round(radius)
    if (pixels === 0) return finite(input.colour)
    const { source, window } = inRoom(input.colour, input, pixels)
    return kernelNode(Median, { source, radius: pixels }, { window, reach: pixels })
  },
})
