import { choice, value } from '../declare/field'
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

const OVAL = { name: 'how', is: ['by an oval'] }

/** Light falls off by the fourth power of the cosine of the angle from the axis (Bass, “Handbook of Optics”, from memory). */
const CosineFourth = point(
  'CosineFourth',
  { amount: splat, middleX: splat, middleY: splat, tangent: splat },
  ({ colour, x, y, values }) => {
    const dx = x.minus(values.middleX).times(values.tangent)
    const dy = y.minus(values.middleY).times(values.tangent)
    const one = x.terms.constant(1)
    const square = one.over(dx.times(dx).plus(dy.times(dy)).plus(1))
    return colour.times(one.minus(one.minus(square.times(square)).times(values.amount)))
  },
)

export const vignette = treatment({
  id: 'vignette',
  label: 'Vignette',
  help: 'Darkens outside a big soft oval, or toward the corners as a lens of the shot’s focal length does.',
  group: 'Lens',
  sentence: 'Darken the corners {amount} {how}[ from {size}][ over {softness}]',
  beside: true,
  values: {
    amount: value(0, 1, {
      label: 'amount',
      help: 'How much is taken away outside; 1 is black.',
      step: 0.002,
      neutral: 0,
    }),
    how: choice(['by an oval', 'as a lens'], {
      label: 'how',
      help: 'By an oval that is said, or by the fourth power of the cosine of the angle at which light falls in.',
      neutral: 'by an oval',
    }),
    size: value(0, 2, {
      label: 'size',
      help: 'Where it starts, in half diagonals of the frame.',
      step: 0.005,
      neutral: 0.55,
      with: OVAL,
    }),
    softness: value(1, 4000, {
      label: 'softness',
      help: 'Over which distance it grows, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 2,
      digits: 0,
      neutral: 400,
      with: OVAL,
    }),
  },
  neutral: ['amount'],
  shown: { amount: 0.8, size: 0.35, softness: 300 },
  plan: (input, { amount, how, size, softness }) => {
    const { width, height } = input
    if (how === 'as a lens') {
      const { sensorWidth, focalLength, shiftX, shiftY } = input.camera()
      return pointNode(CosineFourth, input, {
        amount,
        // Where the axis meets the frame
        middleX: (width / 2) * (1 - shiftX),
        middleY: (height / 2) * (1 + shiftY),
        tangent: sensorWidth / focalLength / width,
      })
    }
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
