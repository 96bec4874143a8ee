import { choice } from '../declare/field'
import { splat } from '../../kernels/record'
import { matteKind } from './matte'
import { divided, share, shareNode } from './share'

const PARTS = { red: splat, green: splat, blue: splat, alpha: splat }
const Part = share('PictureChannel', PARTS, ({ colour, alpha, values: v }) => {
  const { red, green, blue } = divided({ colour, alpha })
  return red.times(v.red).plus(green.times(v.green)).plus(blue.times(v.blue)).plus(alpha.times(v.alpha))
})
const SHARES: Record<string, readonly [number, number, number, number]> = {
  brightness: [0.2126, 0.7152, 0.0722, 0],
  red: [1, 0, 0, 0],
  green: [0, 1, 0, 0],
  blue: [0, 0, 1, 0],
  alpha: [0, 0, 0, 1],
}

export const picture = matteKind({
  id: 'picture',
  group: 'Other pictures',
  label: 'A picture',
  help: 'A channel of a picture or clip, laid over the frame as the plate is: 0 is not in, 1 is in.',
  sentence: '{channel}',
  values: {
    channel: choice(['brightness', 'red', 'green', 'blue', 'alpha'], {
      label: 'channel',
      help: 'What of the picture says how much is in; brightness is its luminance (Rec.709).',
    }),
  },
  pictured: () => true,
  plan: (input, { channel }) => {
    const source = input.taken()
    const [red, green, blue, alpha] = SHARES[channel]!
    return source && shareNode(Part, source, { red, green, blue, alpha }, input.invert, input.area)
  },
})
