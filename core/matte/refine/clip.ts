import { value } from '../../declare/field'
import { point } from '../../formula/point'
import { kernelNode } from '../../plan/node'
import { splat } from '../../../kernels/record'
import { Grey, ShareOf } from '../../../kernels/records'
import { refiner } from './refiner'

const Clip = point(
  'Clip',
  { black: splat, scale: splat, power: splat },
  ({ colour, values: { black, scale, power } }) =>
    colour.map(channel => channel.minus(black).times(scale).atLeast(0).atMost(1).power(power)),
)
const end = (label: string, help: string, neutral: number): ReturnType<typeof value> =>
  value(0, 1, { label, help, step: 0.002, digits: 3, neutral })

export const clip = refiner({
  id: 'clip',
  label: 'Clipped',
  help: 'What is nearly out is out, what is nearly in is in; what lies between is bent.',
  sentence: 'black below {black}, white above {white}, gamma {gamma}',
  values: {
    black: end('black below', 'What holds less is out.', 0),
    white: end('white above', 'What holds more is in.', 1),
    gamma: value(0.1, 10, {
      label: 'gamma',
      help: 'Above 1 more is in of what lies between.',
      step: 0.004,
      neutral: 1,
    }),
  },
  plan: ({ matte }, { black, white, gamma }) => {
    if (black === 0 && white === 1 && gamma === 1) return matte
    const grey = kernelNode(Grey, { source: matte }, { window: matte.window })
    const clipped = kernelNode(
      Clip,
      // Equal ends would divide by zero
      { source: grey, strength: 1, straight: 0, black, scale: 1 / Math.max(1e-3, white - black), power: 1 / gamma },
      { window: grey.window },
    )
    return kernelNode(ShareOf, { source: clipped, which: 0 }, { window: grey.window })
  },
})
