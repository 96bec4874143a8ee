import { luminance } from '../colour/luminance'
import { colourValues, value } from '../declare/field'
import { point } from '../formula/point'
import { shade, splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

/** tint: of luminance 1. */
const Tint = point('Tint', { tint: shade, amount: splat }, ({ colour, values: { tint, amount } }) => {
  const light = colour.luminance()
  return colour.map((channel, which) => channel.plus(tint[which].times(light).minus(channel).times(amount)))
})

export const tint = treatment({
  id: 'tint',
  label: 'Tint',
  help: 'Takes all colours towards one, as bright as they were.',
  group: 'Colour',
  sentence: 'Tint {amount} towards {colour}',
  values: {
    amount: value(0, 1, {
      label: 'amount',
      help: 'At 1 there is no other colour.',
      step: 0.002,
      neutral: 0,
      first: 0.2,
    }),
    colour: colourValues('', {
      help: 'What it is tinted to, linear Rec.709; how bright does not matter.',
      first: [1, 0.72, 0.45],
    }),
  },
  shown: { amount: 0.6 },
  plan: (input, { amount, colour: [red, green, blue] }) => {
    const light = Math.max(1e-6, luminance(red, green, blue))
    return pointNode(Tint, input, { amount, tint: [red / light, green / light, blue / light] })
  },
})
