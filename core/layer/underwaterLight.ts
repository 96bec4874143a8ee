// Light on its way through water, in closed form.
import { point } from '../formula/point'
import { Colour, type Term } from '../formula/term'
import { pointer, raster, shade, splat } from '../../kernels/record'

/** Entries of the table of shafts, round once; the last is the first. */
export const SHAFT_STEPS = 1025
const ARGUMENTS = {
  /** Rays of the pixels: X x + Y y + C in the world, one metre along the view axis. */
  across: shade,
  down: shade,
  first: shade,
  /** Metres that the eye is under the surface. */
  deep: splat,
  /** Lost a metre, along the way and downward, and the light just under the surface. */
  absorbs: shade,
  dims: shade,
  light: shade,
  farthest: splat,
  /** Metres from the eye up to the floor that stands where nothing else is known to: less than nothing, it is below. */
  floor: splat,
  right: shade,
  up: shade,
  amount: splat,
  shafts: pointer,
  depth: raster('single'),
} as const

const dot = (a: Colour, b: Colour): Term => a.red.times(b.red).plus(a.green.times(b.green)).plus(a.blue.times(b.blue))
/** No distance is known of what is told to be farther. */
const NOTHING = 1e9
/** Less than this is no way and no loss. */
const THIN = 1e-3
/** No light goes on after so many lengths in which it falls to 1/e. */
const DEEPEST = 60
const decay = (x: Term): Term => x.terms.constant(Math.E).power(x.atMost(DEEPEST).atLeast(-DEEPEST).times(-1))
/** (1 - e^-x) / x. */
const share = (x: Term): Term => {
  const one = x.terms.constant(1)
  const isThin = one.times(THIN).isAbove(x.absolute())
  return isThin.choose(one.minus(x.times(0.5)), one.minus(decay(x)).over(isThin.choose(1, x)))
}

/**
 * What is left of a surface r metres along a ray, e^(-s r), lit by what is left of the light at its depth, and what the
 * water on the way sends: the integral of s L e^(-s t) e^(-k h(t)) over t from 0 to r, where the depth h(t) falls by the
 * ray's rise y each metre: s L e^(-k h0) r (1 - e^-x) / x with x = (s - k y) r (single scattering, even water;
 * C. Mobley, Light and Water, 1994, from memory).
 */
export const UnderWater = point('UnderWater', ARGUMENTS, ({ colour, x, y, values: v, singles, tables }) => {
  const one = x.terms.constant(1)
  const ray = v.across.times(x).plus(v.down.times(y)).plus(v.first)
  const long = dot(ray, ray).root()
  // Along the view axis; a ray that does not go down meets no floor
  const toFloor = ray.green.isAbove(-1e-6).choose(NOTHING, v.floor.over(ray.green.atMost(-1e-6)))
  const known = one.times(NOTHING).isAbove(singles.depth).choose(singles.depth, toFloor.atLeast(0))
  const metres = known.times(long).atMost(v.farthest)
  const rise = ray.green.over(long)
  // Where a ray leaves the water it ends
  const toSurface = rise.isAbove(1e-4).choose(v.deep.over(rise.atLeast(1e-4)), v.farthest)
  const way = metres.atMost(toSurface)
  const below = v.deep.minus(rise.times(way)).atLeast(0)
  const shaft = one.plus(v.amount.times(shaftOf(ray, v, tables.shafts)))
  return new Colour(
    ...((['red', 'green', 'blue'] as const).map(c => {
      const [s, k] = [v.absorbs[c], v.dims[c]]
      const left = colour[c].times(decay(s.times(way).plus(k.times(below))))
      const sent = v.light[c]
        .times(s)
        .times(way)
        .times(decay(k.times(v.deep)))
        .times(share(s.minus(k.times(rise)).times(way)))
      return left.plus(sent.times(shaft))
    }) as [Term, Term, Term]),
  )
})

/** The shaft that a ray is in: by how far round the way of the light it is, a pseudo angle that grows evenly enough. */
function shaftOf(ray: Colour, { right, up }: { right: Colour; up: Colour }, table: (index: Term) => Term): Term {
  const [a, b] = [dot(ray, right), dot(ray, up)]
  const flat = a.over(a.absolute().plus(b.absolute()).atLeast(1e-9))
  const one = a.terms.constant(1)
  // 0 to 4 once round
  const round = b.isAtLeast(0).choose(one.minus(flat), flat.plus(3))
  const at = round
    .times((SHAFT_STEPS - 1) / 4)
    .atLeast(0)
    .atMost(SHAFT_STEPS - 1.001)
  const below = at.floor()
  const first = table(below)
  return first.plus(table(below.plus(1)).minus(first).times(at.minus(below)))
}
