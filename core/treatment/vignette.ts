import { value } from '../declare/field'
import { point } from '../formula/point'
import { splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

/** An ellipse about a middle, its radii told by their inverse; it begins at `from` radii and grows by `slope` a radius. */
export const Vignette = point(
  'Vignette',
  { amount: splat, middleX: splat, middleY: splat, inverseX: splat, inverseY: splat, from: splat, slope: splat },
  ({ colour, x, y, values }) => {
    const dx = x.minus(values.middleX).times(values.inverseX)
    const dy = y.minus(values.middleY).times(values.inverseY)
    const distance = dx.times(dx).plus(dy.times(dy)).root()
    // Inside nothing is taken
    const t = distance.minus(values.from).times(values.slope).atLeast(0).atMost(1)
    const smooth = values.amount.times(t).times(t).times(t.terms.constant(3).minus(t).minus(t))
    return colour.times(smooth.terms.constant(1).minus(smooth))
  },
)

export const vignette = treatment({
  id: 'vignette',
  label: 'Vignette',
  help: 'Darkens outside a big soft oval.',
  group: 'Lens',
  sentence: 'Darken the corners {amount} from {size} over {softness}',
  beside: true,
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
  shown: { amount: 0.8, size: 0.35, softness: 300 },
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
