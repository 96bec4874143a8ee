import { choice, value } from '../declare/field'
import { signedPower } from '../formula/colours'
import { point } from '../formula/point'
import { splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

const VALUES = { pivot: splat, amount: splat }
/** A slope in stops about a pivot: of each channel, */
const Contrast = point('Contrast', VALUES, ({ colour, values: { pivot, amount } }) =>
  colour.map(channel => signedPower(channel.over(pivot), amount).times(pivot)),
)
/** or of the luminance, each channel going with it. */
const ContrastOfLight = point('ContrastOfLight', VALUES, ({ colour, values: { pivot, amount } }) => {
  const light = colour.luminance().atLeast(1e-6)
  return colour.times(light.over(pivot).power(amount).times(pivot).over(light))
})

export const contrast = treatment({
  id: 'contrast',
  label: 'Contrast',
  help: 'Spreads light and dark about a middle, in stops: at 2 what was one stop apart is two.',
  group: 'Light',
  sentence: 'Contrast {amount} about {pivot} of {of}',
  values: {
    amount: value(0, 4, {
      label: 'contrast',
      help: 'Stops for each stop: 1 as it was, 0 all the same.',
      step: 0.002,
      neutral: 1,
      first: 1.1,
    }),
    pivot: value(0.001, 16, {
      label: 'about',
      help: 'What stays: scene-linear, 0.18 is middle grey.',
      step: 0.001,
      digits: 3,
      neutral: 0.18,
    }),
    of: choice(['channels', 'brightness'], {
      label: 'of',
      help: 'Each channel, so that colours grow too; or brightness alone.',
    }),
  },
  neutral: ['amount'],
  shown: { amount: 1.5 },
  plan: (input, { amount, pivot, of }) =>
    pointNode(of === 'channels' ? Contrast : ContrastOfLight, input, { amount, pivot }, { straight: true }),
})
