import { Vignette } from '../../kernels/records'
import { pointWork, type Treatment } from './treatment'

export const vignette: Treatment = {
  id: 'vignette',
  label: 'Vignette',
  help: 'Darkens outside a big soft oval.',
  sentence: 'Darken the corners {amount} from {size} over {softness}',
  parameters: [
    {
      id: 'amount',
      label: 'amount',
      help: 'How much is taken away outside; 1 is black.',
      unit: '',
      low: 0,
      high: 1,
      step: 0.002,
      neutral: 0,
      digits: 2,
    },
    {
      id: 'size',
      label: 'size',
      help: 'Where it starts, in half diagonals of the frame.',
      unit: '',
      low: 0,
      high: 2,
      step: 0.005,
      neutral: 0.55,
      digits: 2,
    },
    {
      id: 'softness',
      label: 'softness',
      help: 'Over which distance it grows, in pixels of the full frame.',
      unit: 'px',
      low: 1,
      high: 4000,
      step: 2,
      neutral: 400,
      digits: 0,
    },
  ],
  point: pointWork(Vignette, {
    given: ({ amount, size, softness }, { width, height, shrink }) => {
      // An oval of the frame's shape whose radius along the diagonal is the half diagonal
      const diagonal = Math.hypot(width, height) / 2
      return {
        amount: amount!,
        middleX: width / 2,
        middleY: height / 2,
        inverseX: 1 / (width / Math.SQRT2),
        inverseY: 1 / (height / Math.SQRT2),
        from: size!,
        slope: diagonal / Math.max(1e-3, softness! / shrink),
      }
    },
  }),
}
