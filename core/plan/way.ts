// Directions at each pixel, and sums along the lines that they lead.
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { AlongWay, Slopes } from '../../kernels/records'
import { splat } from '../../kernels/record'
import { gaussian, gaussianTaps } from './gaussian'
import { kernelNode, type Node } from './node'
import { pointNode, whole } from './pointNode'
import { inRoom } from './room'

interface Size {
  width: number
  height: number
}

/**
 * Along what runs through a pixel, or across it, from the products of slopes about it (J. Bigun, G. Granlund, "Optimal
 * Orientation Detection of Linear Symmetry", ICCV 1987): the direction of the lesser of both eigenvalues, or the greater.
 */
const WayOfSlopes = point('WayOfSlopes', { across: splat }, ({ colour: { red: xx, green: xy, blue: yy }, values }) => {
  const apart = xx.minus(yy)
  const root = apart.times(apart).plus(xy.times(xy).times(4)).root()
  // Two ways to say the steepest direction, of which one is 0 where slopes are level or upright
  const level = apart.isAbove(0)
  const sx = level.choose(apart.plus(root), xy.times(2))
  const sy = level.choose(xy.times(2), root.minus(apart))
  const long = sx.times(sx).plus(sy.times(sy)).root()
  const isThere = long.isAbove(1e-12)
  const over = long.atLeast(1e-12)
  const [ux, uy] = [isThere.choose(sx.over(over), 0), isThere.choose(sy.over(over), 0)]
  const [a, b] = [values.across, values.across.terms.constant(1).minus(values.across)]
  return new Colour(ux.times(a).minus(uy.times(b)), uy.times(a).plus(ux.times(b)), xx.terms.constant(0))
})

/** sigma: pixels over which slopes are softened. */
export function wayOf(colour: Node, sigma: number, size: Size, across: boolean): Node {
  const { source, window } = inRoom(colour, size, 2)
  const slopes = kernelNode(Slopes, { source }, { window, reach: 2 })
  return pointNode(WayOfSlopes, whole(gaussian(slopes, Math.max(0.5, sigma), size)), { across: across ? 1 : 0 })
}

/** Deviation in steps that a go has at most, and by how much steps may be farther apart than what came is soft. */
const MOST_STEPS = 2.5
const APART = 1.2
/** Deviations and steps of goes that together are a bell of that deviation; the first on what is soft by so much, pixels. */
function goesOf(sigma: number, soft: number): { sigma: number; step: number }[] {
  const goes: { sigma: number; step: number }[] = []
  let done = 0
  for (;;) {
    const step = Math.max(1, Math.sqrt(done + soft * soft) * APART)
    const left = Math.sqrt(Math.max(0, sigma * sigma - done))
    if (left <= step * MOST_STEPS * 1.5) return [...goes, { sigma: left, step }]
    goes.push({ sigma: step * MOST_STEPS, step })
    done += (step * MOST_STEPS) ** 2
  }
}
/** Along a way by a bell of that deviation, pixels. soft: deviation of the bell that it was softened by before. */
export const bellAlong = (colour: Node, way: Node, sigma: number, size: Size, soft = 0): Node =>
  goesOf(sigma, soft).reduce(
    (before, { sigma, step }) => alongWay(before, way, gaussianTaps(Math.max(0.3, sigma / step)), step, size),
    colour,
  )

/** weights: the middle one, then those of steps to both sides. step: pixels. */
function alongWay(colour: Node, way: Node, weights: Float32Array, step: number, size: Size): Node {
  const reach = Math.ceil((weights.length - 1) * step) + 2
  const { source, window } = inRoom(colour, size, reach)
  const ways = inRoom(way, size, reach).source
  return kernelNode(AlongWay, { source, way: ways, weights, count: weights.length, step }, { window, reach })
}
