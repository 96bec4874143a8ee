import { colourValues, value } from '../declare/field'
import { kernelNode } from '../plan/node'
import { point } from '../formula/point'
import { DepthRamp } from '../../kernels/records'
import { raster, shade, splat } from '../../kernels/record'
import { pointNode, whole } from '../plan/pointNode'
import { treatment } from './treatment'

/** Taken towards a tint, by so much at each pixel. */
export const TintTowards = point(
  'TintTowards',
  { share: raster('single'), tint: shade, amount: splat },
  ({ colour, alpha, singles, values }) => {
    const share = singles.share.times(values.amount)
    return colour.map((channel, which) => channel.plus(values.tint[which].times(alpha).minus(channel).times(share)))
  },
)

/** Taken towards its own grey, by so much at each pixel. */
const GreyTowards = point('GreyTowards', { share: raster('single'), amount: splat }, ({ colour, singles, values }) => {
  const grey = colour.luminance()
  const share = singles.share.times(values.amount)
  return colour.map(channel => channel.plus(grey.minus(channel).times(share)))
})

export const distanceTint = treatment({
  id: 'distance_tint',
  label: 'Tint by distance',
  help: 'Takes what is farther away towards a colour, as haze does, or towards its own grey. Where nothing is known to stand counts as farthest.',
  group: 'Air',
  sentence: 'Tint by distance {amount} towards {colour}, losing {grey} of its colours, from {near} to {far}',
  beside: true,
  values: {
    amount: value(0, 1, {
      label: 'amount',
      help: 'How much of the colour there is at the far end.',
      step: 0.004,
      neutral: 0,
      first: 0.5,
    }),
    colour: colourValues('', { help: 'What the distance is tinted to, linear Rec.709.', first: [0.42, 0.5, 0.6] }),
    grey: value(0, 1, {
      label: 'loss of colour',
      help: 'How much of its colours what is farthest loses: at 1 it is grey before it is tinted.',
      step: 0.004,
      neutral: 0,
      first: 0,
    }),
    near: value(0, 1e6, {
      label: 'from',
      help: 'Nearer than this nothing changes.',
      unit: 'm',
      step: 0.05,
      hand: [0, 10000],
      first: 5,
      neutral: 5,
    }),
    far: value(0, 1e6, {
      label: 'to',
      help: 'From here on it is tinted in full.',
      unit: 'm',
      step: 0.05,
      hand: [0, 10000],
      first: 60,
      neutral: 60,
    }),
  },
  neutral: ['amount', 'grey'],
  metres: ['near', 'far'],
  reads: ['depth'],
  plan: (input, { amount, colour: [red, green, blue], grey, near, far }) => {
    const share = input.byDepth(depth =>
      // Equal ends would divide by zero
      kernelNode(DepthRamp, { depth, near, scale: 1 / Math.max(1e-3, far - near) }, { window: depth.window }),
    )
    const tinted = { share, tint: [red, green, blue] as const, amount }
    if (grey === 0) return pointNode(TintTowards, input, tinted)
    const colour = pointNode(GreyTowards, whole(input.colour), { share, amount: grey })
    return pointNode(TintTowards, whole(colour), tinted)
  },
})
