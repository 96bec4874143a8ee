import { value } from '../declare/field'
import { Vignette } from '../../kernels/records'
import { pointNode, treatment } from './treatment'

export const vignette = treatment({
  id: 'vignette',
  label: 'Vignette',
  help: 'Darkens outside a big soft oval.',
  sentence: 'Darken the corners {amount} from {size} over {softness}',
  values: {
    amount: value(0, 1, {
      label: 'amount',
      help: 'How much is taken away outside; 1 is black.',
      step: 0.002,
      neutral: 0,
    }),
    size: value(0, 2, {
      label: 'size',
      help: 'Where it starts, in half diagonals of the frame.',
      step: 0.005,
      neutral: 0.55,
    }),
    softness: value(1, 4000, {
      label: 'softness',
      help: 'Over which distance it grows, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 2,
      digits: 0,
      neutral: 400,
    }),
  },
  neutral: ['amount'],
  plan: (input, { amount, size, softness }) => {
    const { width, height } = input
    // An oval of the frame's shape whose radius along the diagonal is the half diagonal
    const diagonal = Math.hypot(width, height) / 2
    return pointNode(Vignette, input, {
      amount,
      middleX: width / 2,
      middleY: height / 2,
      inverseX: 1 / (width / Math.SQRT2),
      inverseY: 1 / (height / Math.SQRT2),
      from: size,
      slope: diagonal / Math.max(1e-3, softness),
    })
  },
})
