// Reference gamut compression (Academy of Motion Picture Arts and Sciences, S-2020-001 / TB-2021-001): the distance of a
// channel from the strongest is bent from a threshold on, so that a limit beyond the gamut comes to lie on its border.
// There it is done in AP1; here in the channels that one works in.
import { value } from '../declare/field'
import { point } from '../formula/point'
import { shade, splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

const Gamut = point(
  'Gamut',
  { threshold: shade, scale: shade, power: splat, inverse: splat },
  ({ colour, values: { threshold, scale, power, inverse } }) => {
    const most = colour.red.atLeast(colour.green).atLeast(colour.blue)
    const size = most.absolute()
    const safe = size.isAbove(0).choose(size, 1)
    return colour.map((channel, which) => {
      const distance = most.minus(channel).over(safe)
      const over = distance.minus(threshold[which]).atLeast(0).over(scale[which])
      const bent = threshold[which].plus(scale[which].times(over.over(over.power(power).plus(1).power(inverse))))
      return distance.isAbove(threshold[which]).choose(most.minus(bent.times(size)), channel)
    })
  },
)
const limit = (label: string, first: number): ReturnType<typeof value> =>
  value(1, 2, {
    label,
    help: 'This far beyond grey comes to lie on the border: 1 is the border itself.',
    step: 0.001,
    digits: 3,
    neutral: 1,
    first,
  })
const threshold = (label: string, neutral: number): ReturnType<typeof value> =>
  value(0, 0.999, { label, help: 'What is nearer to grey stays as it is.', step: 0.001, digits: 3, neutral })

export const gamut = treatment({
  id: 'gamut',
  label: 'Into the gamut',
  help: 'Brings colours that no screen can show back in, softly, and leaves all others.',
  group: 'Colour',
  sentence:
    'Bring in cyan from {cyan} at {cyan_limit}, magenta from {magenta} at {magenta_limit}, yellow from {yellow} at {yellow_limit}, power {power}',
  values: {
    cyan: threshold('cyan from', 0.815),
    cyan_limit: limit('cyan limit', 1.147),
    magenta: threshold('magenta from', 0.803),
    magenta_limit: limit('magenta limit', 1.264),
    yellow: threshold('yellow from', 0.88),
    yellow_limit: limit('yellow limit', 1.312),
    power: value(1, 4, { label: 'power', help: 'How sharply it begins to bend.', step: 0.004, neutral: 1.2 }),
  },
  neutral: ['cyan_limit', 'magenta_limit', 'yellow_limit'],
  shown: { cyan: 0.3, cyan_limit: 1.6, magenta: 0.3, magenta_limit: 1.6, yellow: 0.3, yellow_limit: 1.6 },
  plan: (input, v) => {
    // A limit on the border moves nothing: its scale is endless
    const scale = (from: number, to: number): number =>
      to > 1 ? (to - from) / (((1 - from) / (to - from)) ** -v.power - 1) ** (1 / v.power) : 1e9
    return pointNode(Gamut, input, {
      threshold: [v.cyan, v.magenta, v.yellow],
      scale: [scale(v.cyan, v.cyan_limit), scale(v.magenta, v.magenta_limit), scale(v.yellow, v.yellow_limit)],
      power: v.power,
      inverse: 1 / v.power,
    })
  },
})
