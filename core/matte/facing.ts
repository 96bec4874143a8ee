import { choice, threeValues, value } from '../declare/field'
import { shade, splat } from '../../kernels/record'
import type { Term } from '../formula/term'
import { matteKind } from './matte'
import { share, shareNode, within } from './share'

/** Degrees of an angle of 0 to 90 by its cosine (S. Hastings 1955, approximation 4.4.46 of AMS 55). */
function degreesOf(cosine: Term): Term {
  const { terms } = cosine
  const series = [
    0.0066700901, -0.0170881256, 0.030891881, -0.0501743046, 0.0889789874, -0.2145988016, 1.570796305,
  ].reduce((sum, next) => sum.times(cosine).plus(next), terms.constant(-0.0012624911))
  return terms
    .constant(1)
    .minus(cosine)
    .root()
    .times(series)
    .times(180 / Math.PI)
}
const ENDS = { low: splat, high: splat, soft: splat } as const
/** Where there is no surface the pass is 0, and nothing is in. */
const Facing = share('FacingMatte', ENDS, ({ colour: { red }, values: v }) =>
  red.isAbove(0).choose(within(degreesOf(red.atLeast(0).atMost(1)), v.low, v.high, v.soft), 0),
)
/** Of normals against a direction of length 1; where there is no surface nothing is in. */
const Towards = share('FacingTowards', { ...ENDS, towards: shade }, ({ colour: n, values: v }) => {
  const { terms } = n.red
  const long = n.red.times(n.red).plus(n.green.times(n.green)).plus(n.blue.times(n.blue)).root()
  const along = n.red.times(v.towards.red).plus(n.green.times(v.towards.green)).plus(n.blue.times(v.towards.blue))
  const cosine = along.over(long.atLeast(1e-6))
  const angle = degreesOf(cosine.absolute().atMost(1))
  const degrees = cosine.isAtLeast(0).choose(angle, terms.constant(180).minus(angle))
  return long.isAbove(1e-3).choose(within(degrees, v.low, v.high, v.soft), terms.constant(0))
})
const angle = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(0, 180, { label, help, unit: '°', step: 0.1, digits: 1, first })

export const facing = matteKind({
  id: 'facing',
  group: 'Space',
  label: 'Facing',
  help: 'What is turned away between two angles from the camera, or from a direction of the scene: 0 faces it, 90 is edge on. Of the passes facing and normal.',
  sentence: 'turned away from {of} by {low} to {high}, soft over {soft}; the direction {towards}',
  values: {
    of: choice(['the camera', 'a direction'], {
      label: 'from',
      help: 'The camera, or a direction of the scene.',
      neutral: 'the camera',
    }),
    towards: threeValues(['right', 'up', 'back'], {
      help: 'The direction, of any length: 0 1 0 is up, -Z is ahead.',
      hand: [-1, 1],
      first: [0, 1, 0],
    }),
    low: angle('from', 'What faces it more is not in it.', 60),
    high: angle('to', 'What is turned away more is not in it.', 90),
    soft: angle('soft over', 'Degrees outside each end over which it fades.', 20),
  },
  reads: ['passes'],
  needs: ({ of }) => (of === 'a direction' ? 'normal' : 'facing'),
  plan: (input, { of, towards, low, high, soft }) => {
    const ends = { low, high: Math.max(low, high), soft }
    if (of !== 'a direction') {
      const source = input.pass('facing')
      return source && shareNode(Facing, source, ends, input.invert)
    }
    const source = input.pass('normal')
    const long = Math.hypot(...towards) || 1
    return source && shareNode(Towards, source, { ...ends, towards: towards.map(part => part / long) }, input.invert)
  },
})
