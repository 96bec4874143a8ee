import { choice, value } from '../declare/field'
import { raster, splat } from '../../kernels/record'
import type { Term } from '../formula/term'
import { matteKind } from './matte'
import { divided, share, shareNode, within } from './share'

const STOPS = { other: raster('colour'), more: splat, soft: splat, dark: splat }
/** More stops than any two numbers are apart. */
const MOST_STOPS = 1000
/** The most that one of the channels differs, in stops. */
const Stops = share('ChangeInStops', STOPS, ({ colour, alpha, colours: { other }, values: v }) => {
  const here = divided({ colour, alpha })
  const there = divided(other)
  const light = (channel: Term): Term => channel.atLeast(0).plus(v.dark).logarithm()
  const off = (['red', 'green', 'blue'] as const).map(name => light(here[name]).minus(light(there[name])).absolute())
  return within(
    off.reduce((most, next) => most.atLeast(next)),
    v.more,
    MOST_STOPS,
    v.soft,
  )
})

export const change = matteKind({
  id: 'change',
  group: 'Other pictures',
  label: 'Change',
  help: 'What differs from a picture of the same place without it (a clean plate), or from another frame of this picture.',
  sentence: 'against {from} {frame}, by more than {more}, soft over {soft}, light under {dark} left out',
  values: {
    from: choice(['a picture', 'frame'], {
      label: 'against',
      help: 'A picture that is taken, or a frame of this one.',
    }),
    frame: value(-1e6, 1e6, {
      label: 'frame',
      with: { name: 'from', is: ['frame'] },
      help: 'The frame that it is compared with, where it is with one.',
      step: 1,
      digits: 0,
      first: 1,
    }),
    more: value(0, 16, {
      label: 'by more than',
      help: 'Stops by which one of its channels is lighter or darker; less is not in it.',
      unit: 'stops',
      step: 0.005,
      first: 0.3,
    }),
    soft: value(0, 16, {
      label: 'soft over',
      help: 'Stops less over which it fades.',
      unit: 'stops',
      step: 0.005,
      first: 0.2,
    }),
    dark: value(0.00001, 1, {
      label: 'light under',
      help: 'Added to both before they are compared, so that grain in the dark is no change.',
      step: 0.0005,
      digits: 4,
      first: 0.005,
    }),
  },
  pictured: ({ from }) => from !== 'frame',
  plan: (input, { from, frame, more, soft, dark }) => {
    const other = from === 'frame' ? input.at?.(Math.round(frame)).colour : input.taken()
    return other && shareNode(Stops, input.colour, { other, more, soft, dark }, input.invert)
  },
})
