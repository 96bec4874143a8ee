// What stands before a screen as if the screen had never been there: without its share of soft pixels, and without its
// light on the thing.
import type { Colour, Term } from '../../formula/term'
import { point } from '../../formula/point'
import { raster, splat } from '../../../kernels/record'
import { share } from '../share'
import { CHANNELS, limitOf, type Channel } from './screen'

/** What stands before the screen without what the screen gives to its pixels. */
export const Unmixed = point(
  'Unmixed',
  {
    outward: splat,
    /** Times the brightness of the inside that a rim has at most. */
    most: splat,
    alpha: raster('single'),
    known: raster('single'),
    screen: raster('colour'),
    inside: raster('colour'),
  },
  ({ colour, values: { outward, most }, singles: { alpha, known }, colours: { screen, inside } }) => {
    const left = alpha.terms.constant(1).minus(alpha)
    const carried = outward.times(known).times(left)
    return colour.map((channel, which) => {
      const own = channel.minus(screen.colour[which].times(left)).over(alpha.atLeast(0.04)).atLeast(0)
      // A rim that is brighter than the inside by more is light from behind
      const held = own.plus(own.atMost(inside.colour[which].times(most)).minus(own).times(known))
      return held.plus(inside.colour[which].minus(held).times(carried))
    })
  },
)
/** BT.709. */
const LIGHT: Readonly<Record<Channel, number>> = { red: 0.2126, green: 0.7152, blue: 0.0722 }
const byChannel = <T>(make: (channel: Channel) => T): Record<Channel, T> =>
  Object.fromEntries(CHANNELS.map(channel => [channel, make(channel)])) as Record<Channel, T>
/**
 * Light of the screen in its own channel beyond what the others have; near an edge beyond what the inside has of it by
 * the same measure.
 */
function spilled(colour: Colour, insides: readonly Colour[], edge: Term, channel: Channel, balance: Term): Term {
  const one = edge.terms.constant(1)
  const own = insides
    .map(inside => inside[channel].over(limitOf(inside, channel, balance).atLeast(1e-4)))
    .reduce((most, next) => most.atLeast(next))
    .atLeast(0)
    .atMost(1)
  const much = one.minus(one.minus(own).times(edge))
  return colour[channel].minus(limitOf(colour, channel, balance).times(much)).atLeast(0)
}
const ON_THING = { balance: splat, known: raster('single'), inside: raster('colour'), near: raster('colour') } as const
export const despilled = byChannel(channel =>
  point(
    `Despilled${channel}`,
    { spill: splat, keep: splat, ...ON_THING },
    ({ colour, values: { spill, keep, balance }, singles: { known }, colours: { inside, near } }) => {
      const taken = spilled(colour, [inside.colour, near.colour], known, channel, balance).times(spill)
      const kept = taken.times(LIGHT[channel]).times(keep)
      return colour.map((own, which) => (which === channel ? own.minus(taken) : own).plus(kept))
    },
  ),
)
/** How much of the screen's light that was, as a share of the screen. */
export const spillOf = byChannel(channel =>
  share(
    `SpillOf${channel}`,
    { much: splat, screen: raster('colour'), ...ON_THING },
    ({ colour, values: { much, balance }, singles: { known }, colours: { screen, inside, near } }) =>
      spilled(colour, [inside.colour, near.colour], known, channel, balance)
        .times(much)
        .over(screen.colour[channel].atLeast(1e-4)),
  ),
)
