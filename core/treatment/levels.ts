import { value } from '../declare/field'
import { point } from '../formula/point'
import { splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

const ENDS = { low: splat, scale: splat, outLow: splat, outSpan: splat }
/** scale: one over the span from black to white. */
export const Levels = point('Levels', ENDS, ({ colour, values: { low, scale, outLow, outSpan } }) =>
  colour.map(channel => outLow.plus(channel.minus(low).times(scale).times(outSpan))),
)
export const LevelsBent = point(
  'LevelsBent',
  { ...ENDS, power: splat },
  ({ colour, values: { low, scale, power, outLow, outSpan } }) =>
    colour.map(channel => {
      const t = channel.minus(low).times(scale)
      return outLow.plus(t.isAbove(0).choose(t.power(power), t).times(outSpan))
    }),
)

const end = (
  low: number,
  high: number,
  label: string,
  help: string,
  step: number,
  neutral: number,
): ReturnType<typeof value> => value(low, high, { label, help, step, digits: 3, neutral })

export const levels = treatment({
  id: 'levels',
  label: 'Levels',
  help: 'Sets which values become black and white, and bends what lies between.',
  group: 'Light',
  sentence: 'Take {black} to {white} with gamma {gamma} to {out_black} to {out_white}',
  values: {
    black: end(-1, 4, 'black in', 'This value becomes black.', 0.0005, 0),
    white: end(0.001, 16, 'white in', 'This value becomes white.', 0.002, 1),
    gamma: end(0.1, 10, 'gamma', 'Above 1 brightens the middles.', 0.002, 1),
    out_black: end(-1, 1, 'black out', 'What black becomes.', 0.0005, 0),
    out_white: end(0, 16, 'white out', 'What white becomes.', 0.002, 1),
  },
  shown: { black: 0.02, white: 0.5, gamma: 1.2 },
  plan: (input, { black, white, gamma, out_black, out_white }) => {
    const ends = {
      low: black,
      // Equal ends would divide by zero: the span is kept to at least a thousandth
      scale: 1 / Math.fround(Math.max(0.001, white - black)),
      outLow: out_black,
      outSpan: out_white - out_black,
    }
    const options = { straight: true }
    return gamma === 1
      ? pointNode(Levels, input, ends, options)
      : pointNode(LevelsBent, input, { ...ends, power: 1 / gamma }, options)
  },
})
