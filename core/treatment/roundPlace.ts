// Light that falls off round a place.
import { point } from '../formula/point'
import type { Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { splat } from '../../kernels/record'

/** As a bell: `wide` is what the square of a distance in pixels is multiplied by, to be a power of 2. */
const RoundPlace = point(
  'WashRoundPlace',
  { placeX: splat, placeY: splat, wide: splat },
  ({ colour, x, y, values: v }) => {
    const [dx, dy] = [x.minus(v.placeX), y.minus(v.placeY)]
    const share = v.wide.terms.constant(2).power(dx.times(dx).plus(dy.times(dy)).times(v.wide))
    return colour.map(channel => channel.times(share))
  },
)

/** x, y, reach: pixels; reach is a standard deviation. */
export const roundPlace = (light: Node, { x, y, reach }: { x: number; y: number; reach: number }): Node =>
  pointNode(RoundPlace, whole(light), {
    ...{ placeX: x, placeY: y },
    wide: -Math.LOG2E / (2 * Math.max(1e-3, reach) ** 2),
  })
