import { value } from '../declare/field'
import { boxMean } from '../plan/boxMean'
import { kernelNode } from '../plan/node'
import { inRoom } from '../plan/room'
import { Mix } from '../../kernels/records'
import { treatment } from './treatment'

export const box = treatment({
  id: 'box',
  label: 'Box blur',
  help: 'Softens by the plain mean of a square: fast at any size, with the hard look of a square.',
  group: 'Softness',
  sentence: 'Box blur by {radius}',
  beside: true,
  values: {
    radius: value(0, 500, {
      label: 'radius',
      help: 'Half the side of the square beside the pixel itself, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.1,
      digits: 1,
      neutral: 0,
      first: 6,
    }),
  },
  shown: { radius: 9 },
  plan: (input, { radius }) => {
    const least = Math.floor(radius)
    const { source, window } = inRoom(input.colour, input, least + 1)
    const first = boxMean(source, least, window)
    // Between two whole radii both are mixed by their areas' sides
    const share = radius - least
    if (share < 1e-3) return first
    return kernelNode(Mix, { first, second: boxMean(source, least + 1, window), share }, { window })
  },
})
