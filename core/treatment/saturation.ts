import { choice, value } from '../declare/field'
import { smooth } from '../formula/colours'
import { point } from '../formula/point'
import { splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

export const Saturation = point('Saturation', { amount: splat }, ({ colour, values: { amount } }) => {
  const grey = colour.luminance()
  return colour.map(channel => grey.plus(channel.minus(grey).times(amount)))
})

/** Less of it where colour is strong already, and where it is like skin: red over green over blue, green about half way. */
const SaturationSparing = point('SaturationSparing', { amount: splat }, ({ colour, values: { amount } }) => {
  const { red, green, blue } = colour
  const most = red.atLeast(green).atLeast(blue)
  const least = red.atMost(green).atMost(blue)
  const strong = most.minus(least).over(most.atLeast(1e-6)).atLeast(0).atMost(1)
  const between = green.minus(blue).over(red.minus(blue).atLeast(1e-6))
  const half = between.minus(0.4).absolute()
  const skin = smooth(half.terms.constant(0.4).minus(half).over(0.25)).times(red.isAbove(blue).choose(1, 0))
  const own = amount.minus(1).times(strong.terms.constant(1).minus(strong.times(0.8)))
  const factor = own.times(skin.terms.constant(1).minus(skin.times(0.7))).plus(1)
  const grey = colour.luminance()
  return colour.map(channel => grey.plus(channel.minus(grey).times(factor)))
})

export const saturation = treatment({
  id: 'saturation',
  label: 'Saturation',
  help: 'Distance of colours from grey of the same luminance (Rec.709).',
  group: 'Colour',
  sentence: 'Saturate {amount} {how}',
  values: {
    amount: value(0, 4, { label: 'saturation', help: '0 is grey, 1 as it was.', step: 0.005, neutral: 1 }),
    how: choice(['evenly', 'sparing'], {
      label: 'how',
      help: 'All alike; or less where colour is strong already and where it is like skin.',
    }),
  },
  neutral: ['amount'],
  shown: { amount: 2 },
  plan: (input, { amount, how }) =>
    how === 'evenly'
      ? pointNode(Saturation, input, { amount })
      : pointNode(SaturationSparing, input, { amount }, { straight: true }),
})
