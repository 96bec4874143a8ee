import { choice, value } from '../declare/field'
import { point } from '../formula/point'
import { splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { ring } from '../matte/handles'
import type { HandlesOf } from './handles'
import { treatment } from './treatment'

/**
 * An ellipse about a middle, its radii told by their inverse, turned; it begins at `from` radii and grows by `slope` a
 * radius.
 */
export const Vignette = point(
  'Vignette',
  {
    ...{ amount: splat, middleX: splat, middleY: splat, cosine: splat, sine: splat },
    ...{ inverseX: splat, inverseY: splat, from: splat, slope: splat },
  },
  ({ colour, x, y, values }) => {
    const [across, down] = [x.minus(values.middleX), y.minus(values.middleY)]
    const dx = across.times(values.cosine).minus(down.times(values.sine)).times(values.inverseX)
    const dy = across.times(values.sine).plus(down.times(values.cosine)).times(values.inverseY)
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

const PLACE = { step: 0.002, digits: 3, neutral: 0.5, with: OVAL }

/** Its middle, and the ends of its two axes where it begins. */
const handles: HandlesOf = (values, { width, height }) => {
  if (values.how !== OVAL.is[0]) return undefined
  const [x, y, size, wider, turn] = ['x', 'y', 'size', 'wider', 'turn'].map(name => values[name] as number)
  const middle = [x! * width, y! * height] as const
  const angle = (turn! * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
  const [across, down] = [(size! * wider! * width) / Math.SQRT2, (size! * height) / Math.SQRT2]
  const at = (a: number, b: number): readonly [number, number] => [
    middle[0] + a * across * cos + b * down * sin,
    middle[1] - a * across * sin + b * down * cos,
  ]
  return {
    of: 'frame',
    grips: [
      { id: 'middle', label: 'middle of the oval', at: middle },
      { id: 'side', label: 'side of the oval', at: at(1, 0) },
      { id: 'foot', label: 'foot of the oval', at: at(0, 1) },
    ],
    lines: [ring(at)],
    moved: (grip, [toX, toY]): Record<string, number> => {
      if (grip === 'middle') return { x: toX / width, y: toY / height }
      const [right, below] = [toX - middle[0], toY - middle[1]]
      const far = Math.max(1, Math.hypot(right, below))
      if (grip === 'side')
        return {
          wider: (far * Math.SQRT2) / width / Math.max(1e-3, size!),
          turn: (Math.atan2(-below, right) * 180) / Math.PI,
        }
      // As wide as it was
      const taller = (far * Math.SQRT2) / height
      return { size: taller, wider: (wider! * size!) / taller, turn: (Math.atan2(right, below) * 180) / Math.PI }
    },
  }
}

export const vignette = treatment({
  id: 'vignette',
  label: 'Vignette',
  help: 'Darkens outside a big soft oval, or toward the corners as a lens of the shot’s focal length does.',
  group: 'Lens',
  sentence:
    'Darken the corners {amount} {how}[ from {size} about {x} {y}, {wider} wide, turned {turn}][ over {softness}]',
  handles,
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
    x: value(-4, 5, { label: 'across', help: 'Its middle, in widths of the frame from the left.', ...PLACE }),
    y: value(-4, 5, { label: 'down', help: 'Its middle, in heights of the frame from the top.', ...PLACE }),
    wider: value(0.02, 50, {
      label: 'width',
      help: 'How much wider it is, for its height, than the frame.',
      step: 0.004,
      hand: [0.1, 10],
      neutral: 1,
      with: OVAL,
    }),
    turn: value(-3600, 3600, {
      label: 'turned',
      help: 'Counter-clockwise.',
      unit: '°',
      step: 0.2,
      digits: 1,
      neutral: 0,
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
  plan: (input, { amount, how, size, x, y, wider, turn, softness }) => {
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
      middleX: x * width,
      middleY: y * height,
      cosine: Math.cos((turn * Math.PI) / 180),
      sine: Math.sin((turn * Math.PI) / 180),
      inverseX: 1 / (width / Math.SQRT2) / wider,
      inverseY: 1 / (height / Math.SQRT2),
      from: size,
      slope: diagonal / Math.max(1e-3, softness),
    })
  },
})
