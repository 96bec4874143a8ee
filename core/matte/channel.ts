import { choice, value } from '../declare/field'
import { PASSES } from '../render/passes'
import { splat } from '../../kernels/record'
import { matteKind } from './matte'
import { divided, share, shareNode, within } from './share'

const RANGE = { low: splat, high: splat, soft: splat, red: splat, green: splat, blue: splat }
const ofPart = share('ChannelOfPass', RANGE, ({ colour: { red, green, blue }, values: v }) =>
  within(red.times(v.red).plus(green.times(v.green)).plus(blue.times(v.blue)), v.low, v.high, v.soft),
)
const ofPicture = share('ChannelOfPicture', RANGE, ({ colour, alpha, values: v }) => {
  const { red, green, blue } = divided({ colour, alpha })
  return within(red.times(v.red).plus(green.times(v.green)).plus(blue.times(v.blue)), v.low, v.high, v.soft)
})
const ofCoverage = share('ChannelOfCoverage', RANGE, ({ alpha, values: v }) => within(alpha, v.low, v.high, v.soft))
const end = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(-1e6, 1e6, { label, help, step: 0.002, hand: [-16, 16], digits: 3, first })

/** Passes of numbers, each by its id. */
const NUMBERS = PASSES.filter(({ channels, coverage }) => channels.length && !coverage).map(({ id }) => id)

export const channel = matteKind({
  id: 'channel',
  group: 'Colours',
  label: 'A channel',
  help: 'What is between two values of one channel of the picture, or of any pass, with soft ends.',
  sentence: '{channel} of {of} between {low} and {high}, soft over {soft}',
  values: {
    channel: choice(['red', 'green', 'blue', 'alpha'], {
      label: 'channel',
      help: 'Of a pass of one number any of them is that; of directions and places red, green and blue are x, y and z.',
    }),
    of: choice(['picture', ...NUMBERS], { label: 'of', help: 'The picture as it comes to this line, or a pass.' }),
    low: end('from', 'What is less is not in it.', 0.5),
    high: end('to', 'What is more is not in it.', 1000),
    soft: value(0, 1e6, {
      label: 'soft over',
      help: 'How much outside each end it takes to fade.',
      step: 0.002,
      hand: [0, 16],
      digits: 3,
      first: 0.2,
    }),
  },
  reads: ['passes'],
  needs: ({ of }) => (of === undefined || of === 'picture' ? undefined : String(of)),
  plan: (input, { channel, of, low, high, soft }) => {
    const given = {
      low,
      high: Math.max(low, high),
      soft,
      red: channel === 'red' ? 1 : 0,
      green: channel === 'green' ? 1 : 0,
      blue: channel === 'blue' ? 1 : 0,
    }
    const source = of === 'picture' ? input.colour : input.pass(of)
    if (!source) return undefined
    // A pass of one number has it in red
    const single = source.pixel === 'single' ? { ...given, red: 1, green: 0, blue: 0 } : given
    if (channel === 'alpha' && source.pixel !== 'single') return shareNode(ofCoverage, source, given, input.invert)
    return shareNode(of === 'picture' ? ofPicture : ofPart, source, single, input.invert)
  },
})
