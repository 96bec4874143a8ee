// Pictures from outside may hold what is no number, or is endless: before a neighbourhood is summed up that is taken out,
// or one such pixel would be all that is left of it.
import { point } from '../formula/point'
import type { Node } from './node'
import { pointNode, whole } from './pointNode'

const MOST = 3.4028234e38
const Finite = point('Finite', {}, ({ colour }) =>
  colour.map(channel => channel.terms.constant(MOST).isAtLeast(channel.absolute()).choose(channel, 0)),
)
/** A picture in which every channel that is no number or endless is 0. */
export const finite = (colour: Node): Node => pointNode(Finite, whole(colour), {})
