// A screen behind things, a studio's or the sky: how much of it is left in a colour, and what it would look like where
// things stand before it.
//
// The share that is left of a screen of one colour is the colour difference of Petro Vlahos (US patent 3 595 987, 1971):
// what the screen's channel has more than the others. Of a bright one it is the least that any channel has of the
// screen's own, since what stands before it adds light and takes none. The patent's number is from memory, no
// copy at hand.
import type { Box } from '../../engine/box'
import { gaussian } from '../../plan/gaussian'
import { enlarged, reduced, reducedSize } from '../../plan/reduced'
import type { Node } from '../../plan/node'
import { point } from '../../formula/point'
import { Colour, type Term } from '../../formula/term'
import { smooth } from '../../formula/colours'
import { raster, shade, splat } from '../../../kernels/record'
import { cutTo } from '../../plan/picture'
import { pointNode, whole } from '../../plan/pointNode'
import { share, shareNode } from '../share'

export type Channel = 'red' | 'green' | 'blue'
/** What a screen is told by: the channel in which it is strongest, or that it is brighter than what stands before it. */
export type ScreenKind = Channel | 'bright'
const KINDS: readonly ScreenKind[] = ['red', 'green', 'blue', 'bright']
export const CHANNELS: readonly Channel[] = ['red', 'green', 'blue']
export const strongest = (colour: readonly [number, number, number]): Channel =>
  CHANNELS[colour.indexOf(Math.max(...colour))]!

/** What a colour has at least of the screen's channel by the light of the others. balance: -1 by the first alone, 1 by the second. */
export function limitOf(colour: Colour, channel: Channel, balance: Term): Term {
  const [first, second] = CHANNELS.filter(other => other !== channel) as [Channel, Channel]
  const one = balance.terms.constant(1)
  return colour[first]
    .times(one.minus(balance.atLeast(0)))
    .atLeast(colour[second].times(one.minus(balance.times(-1).atLeast(0))))
}

/** How much of the screen is left in a colour: 1 in the screen itself, 0 or less in what has none of it. */
export function leftOf(colour: Colour, screen: Colour, kind: ScreenKind, balance: Term): Term {
  if (kind === 'bright') {
    const [red, green, blue] = CHANNELS.map(channel => colour[channel].over(screen[channel].atLeast(1e-4)))
    return red!.atMost(green!).atMost(blue!)
  }
  const own = screen[kind].minus(limitOf(screen, kind, balance))
  return colour[kind].minus(limitOf(colour, kind, balance)).over(own.atLeast(1e-4))
}

const SURE = { balance: splat, sample: shade }
/** How sure a pixel is of the screen by the sample alone: nearly as bright, and of its hue. */
const surely = byKind(kind => {
  // Skies go from blue to white, and one is many times as bright where the sun stands
  const [least, full, some, span] = kind === 'bright' ? [0.75, 0.9, 0.12, 0.15] : [0.9, 0.97, 0.4, 0.3]
  return share(`KeySurely${kind}`, SURE, ({ colour, values: { balance, sample } }) => {
    const dot = dotOf(colour, sample)
    const cosine = dot.times(dot).over(dotOf(colour, colour).times(dotOf(sample, sample)).atLeast(1e-12))
    const left = leftOf(colour, sample, kind, balance)
    return smooth(left.minus(some!).times(1 / span!)).times(
      smooth(cosine.minus(least!).times(1 / (full! - least!))).times(
        dot.isAbove(0).choose(dot.terms.constant(1), dot.terms.constant(0)),
      ),
    )
  })
})
const AGAIN = { balance: splat, inverse: splat, more: splat, screen: raster('colour') }
/** The same by what the screen is thought to look like there. */
const again = byKind(kind =>
  share(`KeyAgain${kind}`, AGAIN, ({ colour, values: { balance, inverse, more }, colours: { screen } }) => {
    // What holds more of it than was thought is the screen; what holds less is mixed with something
    const less = leftOf(colour, screen.colour, kind, balance).times(-1).plus(1)
    const off = less.atLeast(less.times(-1).times(more))
    return smooth(off.terms.constant(1).minus(off.times(inverse)))
  }),
)
export function byKind<T>(make: (kind: ScreenKind) => T): Record<ScreenKind, T> {
  return Object.fromEntries(KINDS.map(kind => [kind, make(kind)])) as Record<ScreenKind, T>
}
export const dotOf = (a: Colour, b: Colour): Term =>
  a.red.times(b.red).plus(a.green.times(b.green)).plus(a.blue.times(b.blue))

const Even = point('Even', { to: shade }, ({ values }) => values.to)
/** What is known in a softened picture, laid over what is known from farther away. */
const Known = point('Known', { nearer: raster('colour'), from: splat }, ({ colour, values, colours: { nearer } }) => {
  const known = nearer.colour.times(nearer.alpha.terms.constant(1).over(nearer.alpha.atLeast(1e-6)))
  const much = smooth(nearer.alpha.times(values.from))
  return colour.map((own, which) => own.plus(known[which].minus(own).times(much)))
})
/** Of a softened neighbourhood, unless said otherwise. */
const BELIEVED = 0.15

/** What is smooth is worked out on a picture made smaller so many times by halves. */
export interface Reduction {
  times: number
  /** Of the small frame. */
  size: { width: number; height: number }
  /** Its pixels in a 320th of the frame. */
  unit: number
  window: Box
}
/** A standard deviation of a 320th of the frame's width stays more than a pixel and a half. */
export function reductionFor(size: { width: number; height: number }, window: Box): Reduction {
  const unit = Math.max(0.5, size.width / 320)
  const times = Math.max(0, Math.floor(Math.log2(unit * 1.5)))
  return { times, size: reducedSize(size, times), unit: unit / 2 ** times, window }
}
export const smallOf = (picture: Node, { times }: Reduction): Node => reduced(picture, times)
export const largeOf = (small: Node, { times, window }: Reduction): Node => enlarged(small, times, window)

/**
 * A picture that is known only in parts, gone on over all of the frame: from the nearest known neighbourhood, of each of
 * several widths. parts: premultiplied by how well it is known; begin: where nothing is; both small. widths: standard
 * deviations in 320ths of the frame, from far to near; believed: from so much known on of a softened neighbourhood it
 * counts alone.
 */
export const goneOn = (
  parts: Node,
  begin: Node,
  widths: readonly number[],
  { size, unit }: Reduction,
  believed = BELIEVED,
): Node =>
  widths.reduce<Node>(
    (farther, width) =>
      pointNode(Known, whole(farther), { nearer: gaussian(parts, width * unit, size), from: 1 / believed }),
    begin,
  )

export interface ScreenValues {
  sample: readonly [number, number, number]
  kind: ScreenKind
  balance: number
}
/** The screen as it would look with nothing before it, small: taken from where it is seen, each time with a keener eye. */
export function screenNode(picture: Node, { sample, kind, balance }: ScreenValues, by: Reduction): Node {
  const known = (matte: Node): Node => smallOf(cutTo(picture, matte), by)
  const first = shareNode(surely[kind], picture, { sample, balance }, false)
  const even = pointNode(Even, whole(smallOf(picture, by)), { to: sample })
  const coarse = goneOn(known(first), even, [32, 8], by)
  return KEENER.reduce<Node>((small, { within, more, widths }) => {
    const screen = largeOf(small, by)
    const sure = shareNode(again[kind], picture, { screen, balance, inverse: 1 / within, more }, false)
    return goneOn(known(sure), small, widths, by, 0.5)
  }, coarse)
}
const KEENER = [
  { within: 0.3, more: 0.1, widths: [32, 8] },
  { within: 0.2, more: 0.1, widths: [32, 8] },
  { within: 0.1, more: 0.2, widths: [32, 16, 6] },
  { within: 0.08, more: 1, widths: [16, 6, 3] },
]
