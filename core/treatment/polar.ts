import { choice, value } from '../declare/field'
import { cosineOfTurns, degreesOf, sineOfTurns } from '../formula/angle'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { pointNode, whole } from '../plan/pointNode'
import { splat } from '../../kernels/record'
import { handlesOfPlace } from './handles'
import { frameValues } from './place'
import { shape, SHAPE_VALUES } from './shape'

/** A picture whose top runs round the middle: across is the angle clockwise from below, down the distance. */
const Bent = point(
  'PolarBent',
  { x: splat, y: splat, width: splat, height: splat, radius: splat },
  ({ colour: { red, green, blue }, values: v }) => {
    const [dx, dy] = [red.minus(v.x), green.minus(v.y)]
    const turn = degreesOf(dy, dx.terms.constant(0).minus(dx)).over(360)
    const distance = dx.times(dx).plus(dy.times(dy)).root()
    return new Colour(turn.times(v.width), distance.over(v.radius).times(v.height), blue)
  },
)
const Unrolled = point(
  'PolarUnrolled',
  { x: splat, y: splat, width: splat, height: splat, radius: splat },
  ({ colour: { red, green, blue }, values: v }) => {
    const turn = red.over(v.width)
    const distance = green.over(v.height).times(v.radius)
    return new Colour(v.x.minus(sineOfTurns(turn).times(distance)), v.y.plus(cosineOfTurns(turn).times(distance)), blue)
  },
)

export const polar = shape({
  id: 'polar',
  label: 'Polar',
  help: 'Bends the picture round a point, or unrolls it from there: what runs across goes round.',
  sentence: 'Polar: {way} at {x} {y}, out to {radius}; {filter}, beyond the edge {beyond}',
  handles: handlesOfPlace('the point'),
  values: {
    way: choice(['bent round', 'unrolled'], { label: 'way', help: 'Round the point, or from round to straight.' }),
    ...frameValues('the point'),
    radius: value(0.01, 10, {
      label: 'radius',
      help: 'Where the picture’s lower edge lies, in heights of the frame.',
      step: 0.002,
      digits: 3,
      first: 0.5,
    }),
    ...SHAPE_VALUES,
  },
  places: ({ width, height }, v, places) =>
    pointNode(v.way === 'bent round' ? Bent : Unrolled, whole(places), {
      ...{ x: v.x * width, y: v.y * height, width, height, radius: v.radius * height },
    }),
})
