// How much of a pixel stands before a screen, by the colours round it that surely do: where those are one colour, or lie
// on a line or a plane, it is the linear share of a pixel's way from the screen that makes each of them 1. A least-squares
// fit in a soft neighbourhood, held by a ridge (the local linear models of Levin, Lischinski, Weiss, "A Closed-Form
// Solution to Natural Image Matting", 2008, with the screen's colour known).
import { gaussian } from '../../plan/gaussian'
import { kernelNode, type Node } from '../../plan/node'
import { point } from '../../formula/point'
import { Colour, type Term } from '../../formula/term'
import { smooth } from '../../formula/colours'
import { raster, splat } from '../../../kernels/record'
import { Mix } from '../../../kernels/records'
import { cutTo } from '../../plan/picture'
import { pointNode, whole } from '../../plan/pointNode'
import { share, shareNode } from '../share'
import { dotOf, largeOf, smallOf, type Reduction } from './screen'

const FROM = { screen: raster('colour') } as const
const wayFrom = (colour: Colour, screen: { colour: Colour }): Colour =>
  colour.map((channel, which) => channel.minus(screen.colour[which]))
const Ways = point('KeyWays', FROM, ({ colour, colours: { screen } }) => wayFrom(colour, screen))
const Squares = point('KeySquares', FROM, ({ colour, colours: { screen } }) =>
  wayFrom(colour, screen).map(channel => channel.times(channel)),
)
const Products = point('KeyProducts', FROM, ({ colour, colours: { screen } }) => {
  const { red, green, blue } = wayFrom(colour, screen)
  return new Colour(red.times(green), red.times(blue), green.times(blue))
})

/** Of the mean square of the ways from the screen: what holds the fit where colours are nearly one. */
const RIDGE = 6e-4
/** What a wide neighbourhood counts beside the near one. */
const WIDE = 0.03

const Fitted = share(
  'KeyFitted',
  {
    black: splat,
    scale: splat,
    first: raster('single'),
    known: raster('single'),
    screen: raster('colour'),
    ways: raster('colour'),
    squares: raster('colour'),
    products: raster('colour'),
  },
  ({ colour, values: { black, scale }, singles: { first, known }, colours: { screen, ways, squares, products } }) => {
    const { colour: m, alpha } = ways
    const trace = squares.colour.red.plus(squares.colour.green).plus(squares.colour.blue)
    const ridge = trace.times(RIDGE).plus(1e-12)
    const [a, b, c] = [squares.colour.red, squares.colour.green, squares.colour.blue].map(term => term.plus(ridge)) as [
      Term,
      Term,
      Term,
    ]
    const { red: d, green: e, blue: f } = products.colour
    // The inverse of the symmetric matrix a d e, d b f, e f c by its cofactors
    const rows = [
      [b.times(c).minus(f.times(f)), e.times(f).minus(d.times(c)), d.times(f).minus(b.times(e))],
      [e.times(f).minus(d.times(c)), a.times(c).minus(e.times(e)), d.times(e).minus(a.times(f))],
      [d.times(f).minus(b.times(e)), d.times(e).minus(a.times(f)), a.times(b).minus(d.times(d))],
    ] as const
    const determinant = a.times(rows[0][0]).plus(d.times(rows[0][1])).plus(e.times(rows[0][2]))
    const along = rows.map(([x, y, z]) => x.times(m.red).plus(y.times(m.green)).plus(z.times(m.blue))) as [
      Term,
      Term,
      Term,
    ]
    const part = dotOf(new Colour(...along), wayFrom(colour, screen))
    const fitted = determinant.isAbove(0).choose(part.over(determinant), first).atLeast(0).atMost(1)
    // As far as it is known what stands there, and as that is another colour than the screen
    const apart = trace.over(alpha.atLeast(1e-9)).over(dotOf(screen.colour, screen.colour).atLeast(1e-9))
    const believed = known.times(smooth(apart.times(8)))
    return first.plus(fitted.minus(first).times(believed)).minus(black).times(scale)
  },
)

export interface FitInput {
  screen: Node
  /** One float a pixel: what is there by the share of the screen alone; how far the fit is believed; what it is fitted to. */
  first: Node
  known: Node
  core: Node
  /** What counts as nothing, and one over how much more counts as all. */
  black: number
  scale: number
}
/** One float a pixel, 0..1. */
export function fittedNode(picture: Node, { screen, core, ...given }: FitInput, by: Reduction): Node {
  const about = (kernel: typeof Ways): Node => {
    const parts = smallOf(cutTo(pointNode(kernel, whole(picture), { screen }), core), by)
    const [near, wide] = [gaussian(parts, by.unit * 8, by.size), gaussian(parts, by.unit * 32, by.size)]
    return largeOf(kernelNode(Mix, { first: near, second: wide, share: WIDE }, { window: near.window }), by)
  }
  return shareNode(
    Fitted,
    picture,
    { ...given, screen, ways: about(Ways), squares: about(Squares), products: about(Products) },
    false,
  )
}
