import { value } from '../declare/field'
import { boxOf, common, grown, holds } from '../engine/box'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { finite } from '../plan/finite'
import { pointNode, whole } from '../plan/pointNode'
import { reshaped } from '../plan/shaped'
import { splat } from '../../kernels/record'
import { ShareOf, WithAlpha } from '../../kernels/records'
import { kernelNode, type Node } from '../plan/node'
import { joined, type Weight } from './weighted'
import { handlesOfPlace } from './handles'
import { frameValues } from './place'
import { treatment } from './treatment'

/** Farther out or in about a middle, growing with the square of the distance where it is said so. */
const Spread = point('FringeSpread', { x: splat, y: splat, by: splat, grows: splat }, ({ colour, values: v }) => {
  const [dx, dy] = [colour.red.minus(v.x), colour.green.minus(v.y)]
  const r2 = dx.times(dx).plus(dy.times(dy)).times(v.grows)
  const factor = v.by.times(r2)
  return new Colour(colour.red.plus(dx.times(factor)), colour.green.plus(dy.times(factor)), colour.blue)
})
/**
 * How much red, green and blue each step of the spectrum has, from long to short: triangles about a sixth, the half and
 * five sixths of it, each a third and a half wide to both sides, so that they add up to the same light.
 */
function spectralWeights(steps: number): Weight[] {
  const raw = Array.from({ length: steps }, (_, i) => {
    const at = (i + 0.5) / steps
    return [1 / 6, 1 / 2, 5 / 6].map(middle => Math.max(0, 1 - Math.abs(at - middle) / (1 / 3)))
  })
  const sums = [0, 1, 2].map(c => raw.reduce((sum, row) => sum + row[c]!, 0))
  return raw.map(row => row.map((value, c) => value / sums[c]!) as unknown as Weight)
}
const STEPS = 9

export const fringe = treatment({
  id: 'fringe',
  label: 'Colour fringes',
  help: 'Red and blue drawn apart toward the corners, as a simple lens does, in steps of the spectrum: no three hard ghosts.',
  group: 'Lens',
  sentence: 'Colours apart by {amount} in the corners, about {x} {y}',
  beside: true,
  handles: handlesOfPlace('the middle'),
  values: {
    amount: value(-200, 200, {
      label: 'amount',
      help: 'How far red and blue lie apart in a corner, in pixels of the full frame; less than nothing: blue outside.',
      unit: 'px',
      pixels: 'size',
      step: 0.05,
      digits: 1,
      neutral: 0,
      first: 2.5,
    }),
    ...frameValues('the middle'),
  },
  neutral: ['amount'],
  shown: { amount: 30 },
  plan: (input, { amount, x, y }) => {
    const { width, height } = input
    const corner = Math.hypot(width, height) / 2
    const clean = finite(input.colour)
    const frame = boxOf(width, height)
    const goesOn = holds(clean.window, frame)
    const window = goesOn ? frame : common(frame, grown(clean.window, Math.ceil(Math.abs(amount)) + 2))
    const lights = spectralWeights(STEPS).map((weight, i) => {
      // From the place of the result to that of the picture: what is drawn outward is seen from farther in
      const way = (i + 0.5) / STEPS - 0.5
      const by = ((way * amount) / corner) * (STEPS / (STEPS - 1))
      const alter = (places: Node): Node =>
        pointNode(Spread, whole(places), { x: x * width, y: y * height, by, grows: 1 / (corner * corner) })
      const moved = reshaped({ ...input, colour: clean }, { alter, pure: true, filter: 'soft', goesOn }, input)
      return [moved.colour, weight] as const
    })
    const colours = joined(lights, window)
    const middle = lights[Math.floor(STEPS / 2)]![0]
    const alpha = kernelNode(ShareOf, { source: middle, which: 3 }, { window: middle.window })
    return kernelNode(WithAlpha, { source: colours, alpha }, { window })
  },
})
