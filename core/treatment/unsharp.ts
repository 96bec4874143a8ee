import { value } from '../declare/field'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { point } from '../formula/point'
import { raster, splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

/** Light beside that of a soft copy: the difference times an amount, what is below a threshold less of it, within bounds. */
const Unsharp = point(
  'Unsharp',
  { soft: raster('colour'), amount: splat, threshold: splat, least: splat, most: splat },
  ({ colour, colours, values }) => {
    const light = colour.luminance()
    const difference = light.minus(colours.soft.colour.luminance())
    // Soft about the threshold: of what is twice as much three quarters are left (x² / (x² + t²) would be four fifths)
    const size = difference.absolute()
    const over = size.minus(values.threshold.times(light.absolute())).atLeast(0)
    const share = over.over(size.atLeast(1e-12))
    const gain = light.plus(difference.times(share).times(values.amount)).over(light.atLeast(1e-9))
    const held = gain.atLeast(values.least).atMost(values.most)
    return colour.map(channel => light.isAbove(1e-9).choose(channel.times(held), channel))
  },
)

export const unsharp = treatment({
  id: 'unsharp',
  label: 'Sharpen',
  help: 'Sharpens by what a soft copy lacks (unsharp mask), by brightness alone: no coloured edges.',
  group: 'Softness',
  sentence: 'Sharpen {amount} at {radius}, differences from {threshold}, rims up to {halo}',
  beside: true,
  values: {
    amount: value(0, 10, {
      label: 'amount',
      help: 'How much of the difference to the soft copy is added.',
      step: 0.01,
      neutral: 0,
      first: 0.6,
    }),
    radius: value(0.1, 200, {
      label: 'radius',
      help: 'Standard deviation of the soft copy, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.05,
      digits: 2,
      first: 1.2,
    }),
    threshold: value(0, 1, {
      label: 'threshold',
      help: 'Differences smaller than this share of the light stay as they are: grain is not sharpened.',
      step: 0.002,
      digits: 3,
      first: 0.02,
    }),
    halo: value(0, 4, {
      label: 'rims',
      help: 'No pixel gets brighter or darker by more than that.',
      unit: 'stops',
      step: 0.01,
      first: 0.5,
    }),
  },
  neutral: ['amount'],
  shown: { amount: 5, radius: 3, halo: 1.5 },
  plan: (input, { amount, radius, threshold, halo }) => {
    const { width, height } = input
    // Where it fills the frame the soft copy does, else what is beyond has nothing
    const soft = gaussian(finite(input.colour), radius, { width, height })
    return pointNode(Unsharp, input, { soft, amount, threshold, least: 2 ** -halo, most: 2 ** halo })
  },
})
