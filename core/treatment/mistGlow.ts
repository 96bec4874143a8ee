import { colourValues, value } from '../declare/field'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { pointNode, whole } from '../plan/pointNode'
import { raster, shade } from '../../kernels/record'
import { withLight } from './weighted'
import { treatment } from './treatment'

/** Light of the picture, in so much of it as the mist has, and the mist's own. */
const InMist = point('InMist', { mist: raster('single'), own: shade }, ({ colour, alpha, singles, values }) => {
  const share = singles.mist.atLeast(0).atMost(1)
  return colour.map((channel, which) => channel.plus(values.own[which].times(alpha)).times(share))
})

export const mistGlow = treatment({
  id: 'mist_glow',
  label: 'Glow of the mist',
  help: 'Light that mist scatters: of the picture where the pass mist is thick, softened, and a light of its own.',
  group: 'Air',
  sentence: 'Mist glows {amount} over {size} with {colour} of its own',
  beside: true,
  values: {
    amount: value(0, 10, { label: 'amount', help: 'How much light is added.', step: 0.004, neutral: 0, first: 0.25 }),
    size: value(0.5, 1000, {
      label: 'size',
      help: 'Standard deviation of the softness, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 0,
      first: 40,
    }),
    colour: colourValues('', { help: 'Light that the mist has besides, linear Rec.709.', first: [0.04, 0.045, 0.05] }),
  },
  neutral: ['amount'],
  shown: { amount: 2 },
  needs: () => ['mist'],
  plan: (input, { amount, size, colour }) => {
    const mist = input.pass?.('mist')
    if (!mist) return input.colour
    const { width, height } = input
    const [r, g, b] = colour
    const clean = finite(input.colour)
    const light = gaussian(pointNode(InMist, whole(clean), { mist, own: [r, g, b] }), size, { width, height })
    return withLight(clean, [[light, [amount, amount, amount]]])
  },
})
