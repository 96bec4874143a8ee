import { value, whole as count } from '../declare/field'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import type { Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { raster, splat } from '../../kernels/record'
import { treatment } from './treatment'

const Ratio = point('DeconvolveRatio', { seen: raster('colour') }, ({ colour, colours }) =>
  colour.map((channel, which) => colours.seen.colour[which].atLeast(0).over(channel.atLeast(1e-6)).atMost(1e4)),
)
const Times = point('DeconvolveTimes', { ratio: raster('colour') }, ({ colour, colours }) =>
  colour.map((channel, which) => channel.atLeast(0).times(colours.ratio.colour[which])),
)
const Part = point(
  'DeconvolvePart',
  { sharp: raster('colour'), amount: splat, least: splat, most: splat },
  ({ colour, colours, values }) =>
    colour.map((channel, which) => {
      const seen = channel.atLeast(0)
      const held = colours.sharp.colour[which].atLeast(seen.times(values.least)).atMost(seen.times(values.most))
      return channel.plus(held.minus(seen).times(values.amount))
    }),
)

export const deconvolve = treatment({
  id: 'deconvolve',
  label: 'Sharpen by undoing a blur',
  help: 'What a known softness would have been made of (Richardson–Lucy): sharpens a lens’s own softness without rims, where there is little noise.',
  group: 'Softness',
  sentence: 'Undo a softness of {radius} in {goes} goes, {amount} of it, rims up to {halo}',
  beside: true,
  values: {
    radius: value(0, 8, {
      label: 'radius',
      help: 'Standard deviation of the softness that is undone, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.02,
      digits: 2,
      neutral: 0,
      first: 0.9,
    }),
    goes: count(1, 24, { label: 'goes', help: 'More are sharper, and bring out noise.', first: 8 }),
    halo: value(0, 8, {
      label: 'rims',
      help: 'No pixel gets brighter or darker by more than that: round lamps it would ring.',
      unit: 'stops',
      step: 0.01,
      first: 1,
    }),
    amount: value(0, 1, { label: 'amount', help: 'How much of it is taken.', step: 0.004, neutral: 0, first: 1 }),
  },
  neutral: ['amount'],
  idle: ({ radius }) => radius === 0,
  shown: { radius: 1.6, goes: 12 },
  plan: (input, { radius, goes, amount, halo }) => {
    const { width, height } = input
    const seen = finite(input.colour)
    // A smaller copy has none of it left
    if (radius < 0.15) return seen
    const soft = (node: Node): Node => gaussian(node, radius, { width, height })
    let sharp: Node = seen
    for (let i = 0; i < goes; i++) {
      const ratio = pointNode(Ratio, whole(soft(sharp)), { seen })
      sharp = pointNode(Times, whole(sharp), { ratio: soft(ratio) })
    }
    return pointNode(Part, input, { sharp, amount, least: 2 ** -halo, most: 2 ** halo })
  },
})
