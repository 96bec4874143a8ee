import { value } from '../../declare/field'
import { point } from '../../formula/point'
import { Colour, type Term } from '../../formula/term'
import { boxMean } from '../../plan/boxMean'
import { kernelNode } from '../../plan/node'
import { pointNode, whole } from '../../plan/pointNode'
import { raster, splat } from '../../../kernels/record'
import { WithAlpha } from '../../../kernels/records'
import { share, shareNode } from '../share'
import { refiner } from './refiner'

// The guided filter (K. He, J. Sun, X. Tang, "Guided Image Filtering", 2010) by a picture of three channels: in every
// window the matte is said by a line of the picture's colour, and each pixel takes the mean of those of the windows that
// it lies in. The picture counts as it is seen, by its 2.4th root, so that dark edges are edges too.

/** What is no number is black; what is far brighter than white is no edge. */
const Guide = point('FollowGuide', {}, ({ colour }) =>
  colour.map(channel =>
    channel.terms
      .constant(0)
      .atLeast(channel)
      .atMost(16)
      .power(1 / 2.4),
  ),
)
const Squares = point('FollowSquares', {}, ({ colour }) => colour.map(channel => channel.times(channel)))
const Products = point(
  'FollowProducts',
  {},
  ({ colour: { red, green, blue } }) => new Colour(red.times(green), red.times(blue), green.times(blue)),
)
const WithMatte = point('FollowMatte', { matted: raster('single') }, ({ colour, singles: { matted } }) =>
  colour.times(matted),
)
/** The line of a window: what it takes of each channel. source: means of the picture, with that of the matte. */
const Line = point(
  'FollowLine',
  { smoothness: splat, squares: raster('colour'), products: raster('colour'), matted: raster('colour') },
  ({ colour: mean, alpha: level, values: { smoothness }, colours: { squares, products, matted } }) => {
    const less = (of: Term, a: Term, b: Term): Term => of.minus(a.times(b))
    const [r, g, b] = [mean.red, mean.green, mean.blue]
    const rr = less(squares.colour.red, r, r).plus(smoothness)
    const gg = less(squares.colour.green, g, g).plus(smoothness)
    const bb = less(squares.colour.blue, b, b).plus(smoothness)
    const rg = less(products.colour.red, r, g)
    const rb = less(products.colour.green, r, b)
    const gb = less(products.colour.blue, g, b)
    const [x, y, z] = [
      less(matted.colour.red, r, level),
      less(matted.colour.green, g, level),
      less(matted.colour.blue, b, level),
    ]
    const c1 = gg.times(bb).minus(gb.times(gb))
    const c2 = rb.times(gb).minus(rg.times(bb))
    const c3 = rg.times(gb).minus(rb.times(gg))
    const determinant = rr.times(c1).plus(rg.times(c2)).plus(rb.times(c3))
    const c5 = rr.times(bb).minus(rb.times(rb))
    const c6 = rg.times(rb).minus(rr.times(gb))
    const c9 = rr.times(gg).minus(rg.times(rg))
    const over = (sum: Term): Term => sum.over(determinant)
    return new Colour(
      over(c1.times(x).plus(c2.times(y)).plus(c3.times(z))),
      over(c2.times(x).plus(c5.times(y)).plus(c6.times(z))),
      over(c3.times(x).plus(c6.times(y)).plus(c9.times(z))),
    )
  },
)
const along = (a: Colour, b: Colour): Term => a.red.times(b.red).plus(a.green.times(b.green)).plus(a.blue.times(b.blue))
/** And where it begins. source: means of the picture, with that of the matte. */
const Begin = point('FollowBegin', { line: raster('colour') }, ({ colour, alpha, colours: { line } }) => {
  const begin = alpha.minus(along(line.colour, colour))
  return new Colour(begin, begin, begin)
})
const Said = share('FollowSaid', { line: raster('colour'), begin: raster('colour') }, ({ colour, colours }) =>
  along(colours.line.colour, colour).plus(colours.begin.colour.red),
)

export const follow = refiner({
  id: 'follow',
  label: 'Edges of the picture',
  help: 'The matte’s edge goes where the picture has one: drawn roughly round hair or leaves it finds them.',
  sentence: 'follows the picture’s edges within {radius}, smoothed by {smooth}',
  values: {
    radius: value(0, 400, {
      label: 'radius',
      help: 'How far it looks to each side.',
      unit: 'px',
      pixels: 'size',
      step: 0.1,
      digits: 0,
      neutral: 0,
      first: 8,
    }),
    smooth: value(0.001, 1, {
      label: 'smoothed by',
      help: 'Differences of the picture smaller than this, of 0 to 1 as it is seen, are no edges.',
      step: 0.001,
      digits: 3,
      first: 0.02,
    }),
  },
  plan: ({ matte, picture }, { radius, smooth }) => {
    const reach = Math.round(radius)
    if (reach < 1) return matte
    const guide = pointNode(Guide, whole(picture), {})
    const means = boxMean(kernelNode(WithAlpha, { source: guide, alpha: matte }, { window: matte.window }), reach)
    const mean = (kernel: typeof Squares): ReturnType<typeof boxMean> =>
      boxMean(pointNode(kernel, whole(guide), {}), reach)
    const line = pointNode(Line, whole(means), {
      smoothness: smooth ** 2,
      squares: mean(Squares),
      products: mean(Products),
      matted: boxMean(pointNode(WithMatte, whole(guide), { matted: matte }), reach),
    })
    const begin = pointNode(Begin, whole(means), { line })
    return shareNode(Said, guide, { line: boxMean(line, reach), begin: boxMean(begin, reach) }, false, matte.window)
  },
})
