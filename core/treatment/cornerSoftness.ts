import { value } from '../declare/field'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { pointNode, whole } from '../plan/pointNode'
import { raster, splat } from '../../kernels/record'
import { inWindow } from './weighted'
import { handlesOfPlace } from './handles'
import { frameValues } from './place'
import { treatment } from './treatment'

/**
 * Between pictures ever softer, by how far out a pixel lies: of neighbouring ones so much of each that the variance of the
 * mixture is that of the softness there.
 */
const Softer = point(
  'CornerSoftness',
  {
    ...{ first: raster('colour'), second: raster('colour'), third: raster('colour') },
    ...{ x: splat, y: splat, over: splat, from: splat },
  },
  ({ colour, colours, x, y, values: v }) => {
    const [dx, dy] = [x.minus(v.x), y.minus(v.y)]
    const distance = dx.times(dx).plus(dy.times(dy)).root().times(v.over)
    const { terms } = distance
    // Nothing up to where it begins, all in the corner; the deviation grows with the square of the way between
    const way = distance.minus(v.from).over(terms.constant(1).minus(v.from).atLeast(1e-3)).atLeast(0).atMost(1)
    const deviation = way.times(way)
    const variance = deviation.times(deviation)
    const between = (low: number, high: number): typeof variance =>
      variance
        .minus(low * low)
        .times(1 / (high * high - low * low))
        .atLeast(0)
        .atMost(1)
    const [a, b, c] = [between(0, LEVELS[0]), between(LEVELS[0], LEVELS[1]), between(LEVELS[1], LEVELS[2])]
    return colour.map((channel, which) => {
      const [first, second, third] = [colours.first, colours.second, colours.third].map(one => one.colour[which]) as [
        typeof channel,
        typeof channel,
        typeof channel,
      ]
      return channel
        .plus(first.minus(channel).times(a))
        .plus(second.minus(first).times(b))
        .plus(third.minus(second).times(c))
    })
  },
)
/** Deviations of the softer pictures, as shares of that in the corner. */
const LEVELS = [0.25, 0.5, 1] as const

export const cornerSoftness = treatment({
  id: 'corner_softness',
  label: 'Soft corners',
  help: 'Softens toward the corners, as a lens does that is sharp in the middle only.',
  group: 'Lens',
  sentence: 'Soft by {amount} in the corners from {from} on, about {x} {y}',
  beside: true,
  handles: handlesOfPlace('the middle'),
  values: {
    amount: value(0, 60, {
      label: 'amount',
      help: 'Standard deviation of the softness in the corners, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.05,
      digits: 1,
      neutral: 0,
      first: 2,
    }),
    from: value(0, 0.95, {
      label: 'from',
      help: 'What lies nearer to the middle stays sharp, in half diagonals of the frame.',
      step: 0.002,
      digits: 3,
      first: 0.35,
    }),
    ...frameValues('the middle'),
  },
  neutral: ['amount'],
  shown: { amount: 12, from: 0.1 },
  plan: (input, { amount, from, x, y }) => {
    const { width, height } = input
    const clean = finite(input.colour)
    const [first, second, third] = LEVELS.map(share => gaussian(clean, amount * share, { width, height })) as [
      typeof clean,
      typeof clean,
      typeof clean,
    ]
    return pointNode(Softer, whole(inWindow(clean, third.window)), {
      ...{ first, second, third, x: x * width, y: y * height, over: 2 / Math.hypot(width, height), from },
    })
  },
})
