import { value } from '../declare/field'
import { splat } from '../../kernels/record'
import { matteKind } from './matte'
import { share, shareNode, within } from './share'

/** Of the cosine of an angle: its degrees, by its sine and cosine (S. Hastings 1955, approximation 4.4.46 of AMS 55). */
const Facing = share('FacingMatte', { low: splat, high: splat, soft: splat }, ({ colour: { red }, values: v }) => {
  const c = red.atLeast(0).atMost(1)
  const { terms } = c
  const series = [
    0.0066700901, -0.0170881256, 0.030891881, -0.0501743046, 0.0889789874, -0.2145988016, 1.570796305,
  ].reduce((sum, next) => sum.times(c).plus(next), terms.constant(-0.0012624911))
  const degrees = terms
    .constant(1)
    .minus(c)
    .root()
    .times(series)
    .times(180 / Math.PI)
  return within(degrees, v.low, v.high, v.soft)
})
const angle = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(0, 90, { label, help, unit: '°', step: 0.1, digits: 1, first })

export const facing = matteKind({
  id: 'facing',
  label: 'Facing',
  help: 'What is turned away from the camera between two angles: 0 faces it, 90 is seen edge on. Of the pass facing.',
  sentence: 'turned away from {low} to {high}, soft over {soft}',
  values: {
    low: angle('from', 'What faces the camera more is not in it.', 60),
    high: angle('to', 'What is turned away more is not in it.', 90),
    soft: angle('soft over', 'Degrees outside each end over which it fades.', 20),
  },
  reads: ['passes'],
  needs: () => 'facing',
  plan: (input, { low, high, soft }) => {
    const source = input.pass('facing')
    return source && shareNode(Facing, source, { low, high: Math.max(low, high), soft }, input.invert)
  },
})
