// How much of a pixel stands before a screen, by the colours round it that surely do: where those are one colour, or lie
// on a line or a plane, it is the linear share of a pixel's way from the screen that makes each of them 1. A least-squares
// fit in a soft neighbourhood (the local linear models of Levin, Lischinski, Weiss, "A Closed-Form Solution to Natural
// Image Matting", 2008, with the screen's colour known), held by a ridge to the share along the way to their mean.
import { gaussian } from '../../plan/gaussian'
import { kernelNode, type Node } from '../../plan/node'
import { point, type Pixel } from '../../formula/point'
import { Colour, type Term } from '../../formula/term'
import { smooth } from '../../formula/colours'
import { raster, splat } from '../../../kernels/record'
import { Mix } from '../../../kernels/records'
import { cutTo } from '../../plan/picture'
import { pointNode, whole } from '../../plan/pointNode'
import { share, shareNode } from '../share'
import { CHANNELS, dotOf, largeOf, smallOf, type Channel, type Reduction } from './screen'

const Squares = point('KeySquares', {}, ({ colour }) => colour.map(channel => channel.times(channel)))
const Products = point(
  'KeyProducts',
  {},
  ({ colour: { red, green, blue } }) => new Colour(red.times(green), red.times(blue), green.times(blue)),
)

/** Of the mean square of the ways from the screen: what holds the fit to their mean where colours are nearly one. */
const RIDGE = 1.2e-3
/** What a wide neighbourhood counts beside the near one. */
const WIDE = 0.3

/** About the colours round a place: how much of them there is in alpha, their mean, squares and products times that. */
const AROUND = { screen: raster('colour'), squares: raster('colour'), products: raster('colour') } as const
function solved({ colour: mean, alpha, colours: { screen, squares, products } }: Pixel<typeof AROUND>) {
  const behind = screen.colour
  // Moments of the ways from the screen as it is here, since it may be another where those colours are
  const m = mean.map((channel, which) => channel.minus(behind[which].times(alpha)))
  const moment = (product: Term, one: Channel, other: Channel): Term =>
    product.minus(behind[one].times(mean[other])).minus(behind[other].times(m[one]))
  const own = CHANNELS.map(channel => moment(squares.colour[channel], channel, channel)) as [Term, Term, Term]
  const trace = own[0].plus(own[1]).plus(own[2])
  const ridge = trace.times(RIDGE).plus(1e-12)
  const [a, b, c] = own.map(term => term.plus(ridge)) as [Term, Term, Term]
  const d = moment(products.colour.red, 'red', 'green')
  const e = moment(products.colour.green, 'red', 'blue')
  const f = moment(products.colour.blue, 'green', 'blue')
  // The inverse of the symmetric matrix a d e, d b f, e f c by its cofactors
  const rows = [
    [b.times(c).minus(f.times(f)), e.times(f).minus(d.times(c)), d.times(f).minus(b.times(e))],
    [e.times(f).minus(d.times(c)), a.times(c).minus(e.times(e)), d.times(e).minus(a.times(f))],
    [d.times(f).minus(b.times(e)), d.times(e).minus(a.times(f)), a.times(b).minus(d.times(d))],
  ] as const
  const determinant = a.times(rows[0][0]).plus(d.times(rows[0][1])).plus(e.times(rows[0][2]))
  const toMean = ridge.times(alpha).over(dotOf(m, m).atLeast(1e-12)).plus(1)
  const along = rows.map(([x, y, z]) => dotOf(new Colour(x, y, z), m).times(toMean)) as [Term, Term, Term]
  return { along, determinant, apart: trace.over(alpha.atLeast(1e-9)).over(dotOf(behind, behind).atLeast(1e-9)) }
}
/** What a way from the screen is to be multiplied by to be the share of it that is gone. */
const Ways = point('KeyWays', AROUND, pixel => {
  const { along, determinant } = solved(pixel)
  return new Colour(...along).map(channel => determinant.isAbove(0).choose(channel.over(determinant), 0))
})
/** As far as there is an answer, and as what stands there is another colour than the screen. */
const Believed = share('KeyBelieved', AROUND, pixel => {
  const { determinant, apart } = solved(pixel)
  return determinant.isAbove(0).choose(smooth(apart.times(8)), 0)
})

const Fitted = share(
  'KeyFitted',
  {
    black: splat,
    over: splat,
    white: splat,
    under: splat,
    first: raster('single'),
    known: raster('single'),
    believed: raster('single'),
    screen: raster('colour'),
    ways: raster('colour'),
  },
  ({ colour, values: { black, over, white, under }, singles, colours: { screen, ways } }) => {
    const { first, known, believed } = singles
    const fitted = dotOf(
      ways.colour,
      colour.map((channel, which) => channel.minus(screen.colour[which])),
    )
    const much = known.times(believed)
    const stands = first.plus(fitted.atLeast(0).atMost(1).minus(first).times(much)).atLeast(0).atMost(1)
    // Cut at both ends without a bias between them
    const there = stands.times(smooth(stands.minus(black).times(over)))
    const one = there.terms.constant(1)
    return one.minus(one.minus(there).times(smooth(white.minus(stands).times(under))))
  },
)

export interface FitInput {
  screen: Node
  small: Node
  /** One float a pixel: what is there by the share of the screen alone; how far the fit is believed; what it is fitted to. */
  first: Node
  known: Node
  core: Node
  /** What counts as nothing, and what as all. */
  black: number
  white: number
}
/** One over how far it takes from each end until all is as it stands; equal ends would divide by zero. */
function endsOf(black: number, white: number): Record<'black' | 'over' | 'white' | 'under', number> {
  const least = (end: number): number => 1 / Math.max(1e-4, Math.min(end, white - black))
  return { black, over: least(black), white, under: least(1 - white) }
}
/** One float a pixel, 0..1. small: the screen as it was worked out. */
export function fittedNode(
  picture: Node,
  { screen, small, core, black, white, ...given }: FitInput,
  by: Reduction,
): Node {
  const about = (of: Node): Node => {
    const parts = smallOf(cutTo(of, core), by)
    const [near, wide] = [gaussian(parts, by.unit * 8, by.size), gaussian(parts, by.unit * 32, by.size)]
    return kernelNode(Mix, { first: near, second: wide, share: WIDE }, { window: near.window })
  }
  const made = (kernel: typeof Squares): Node => about(pointNode(kernel, whole(picture), {}))
  const mean = about(picture)
  const around = { screen: small, squares: made(Squares), products: made(Products) }
  const ways = largeOf(pointNode(Ways, whole(mean), around), by)
  const believed = largeOf(shareNode(Believed, mean, around, false), by)
  return shareNode(Fitted, picture, { ...given, ...endsOf(black, white), screen, ways, believed }, false)
}
