import { choice, value } from '../declare/field'
import { within } from '../declare/values'
import { circleAtInfinity, distanceOfCircle } from '../lens/focus'
import { LENS_VALUES } from '../lens/values'
import { point } from '../formula/point'
import { eachAtItsDistance } from '../plan/beyond'
import { circleNode, outOfFocus } from '../plan/outOfFocus'
import { pointNode, whole } from '../plan/pointNode'
import { raster, splat } from '../../kernels/record'
import { treatment, type SeenBy } from './treatment'

/** Pixels of the full frame that a circle may have in radius where things still look sharp. Common practice, no source. */
const SHARP = 0.75
/** The focus and f-number with which all is sharp from one distance to another; what is not given stays as it is held. */
function sharpBetween(
  ends: { near?: number; far?: number },
  held: Readonly<Record<string, unknown>>,
  { camera, width }: SeenBy,
): Record<string, number> {
  const [distance, fNumber, factor] = ['distance', 'fNumber', 'factor'].map(name => held[name] as number)
  const now = circleAtInfinity(camera, fNumber!, distance!, width, factor)
  const near = ends.near ?? Math.min(distanceOfCircle(-SHARP, now, distance!), ends.far! * 0.98)
  const far = ends.far ?? Math.max(distanceOfCircle(SHARP, now, distance!), ends.near! * 1.02)
  // Circles of both ends are alike: halfway between them in one over metres
  const middle = 2 / (1 / Math.min(near, far) + 1 / Math.max(near, far))
  const wanted = SHARP / Math.abs(1 - middle / far)
  const open = circleAtInfinity(camera, 1, middle, width, factor)
  const { low, high } = LENS_VALUES.fNumber
  return { distance: middle, fNumber: within(open / wanted, low, high) }
}

/** Pixels of the full frame from stripe to stripe. */
const STRIPE = 12
/** Bands of greys, one for each doubling of the circle, darker by so much each; every second one darker still. */
const DARKER = 0.8
const Circles = point(
  'FocusCircles',
  { circle: raster('single'), sharp: splat, stripe: splat },
  ({ colour, alpha, x, y, singles: { circle }, values: v }) => {
    const times = circle.absolute().over(v.sharp)
    const band = times.atLeast(1).logarithm().plus(1e-4).floor()
    const second = band.minus(band.over(2).floor().times(2))
    const way = x.plus(y).times(v.stripe)
    const dark = circle.isAbove(0).choose(1, way.minus(way.floor()).isAbove(0.5).choose(1, 0.6))
    const grey = band.terms
      .constant(DARKER)
      .power(band)
      .times(0.55)
      .times(band.terms.constant(1).minus(second.times(0.35)))
      .times(dark)
    return colour.map(channel => times.isAbove(1).choose(grey.times(alpha), channel))
  },
)

export const focus = treatment({
  id: 'focus',
  label: 'Focus',
  help: 'Takes what is nearer or farther than the focus out of it, as the lens of the shot’s camera would at that f-number. What glass shows and smooth things mirror goes by its own distance where the passes have a depth behind glass and of what is mirrored.',
  group: 'Lens',
  sentence:
    'In focus at {distance}, else as a lens at f/{fNumber} {factor} times over, circles up to {most}; {blades} blades turned {turn}, {squeeze} times taller than wide, rim {rim}, cat’s eye {catsEye}, showing {shows}',
  beside: true,
  values: {
    ...LENS_VALUES,
    factor: value(0, 50, {
      label: 'amount',
      help: 'How much more than that lens would; 1 as it would, 0 none.',
      step: 0.01,
      neutral: 0,
      first: 1,
    }),
    most: value(0.5, 400, {
      label: 'largest circle',
      help: 'Radius that no circle of confusion is larger than, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 1,
      first: 60,
    }),
    shows: choice(['the picture', 'the circles'], {
      label: 'shown',
      help: 'The picture, or how large circles are: what is sharp as it is, else a band from each size to twice that; stripes where it is nearer than the focus.',
    }),
  },
  neutral: ['factor'],
  zone: {
    middle: 'distance',
    ends: (held, { camera, width }) => {
      const [distance, fNumber, factor] = ['distance', 'fNumber', 'factor'].map(name => held[name] as number)
      const circle = circleAtInfinity(camera, fNumber!, distance!, width, factor)
      return { near: distanceOfCircle(-SHARP, circle, distance!), far: distanceOfCircle(SHARP, circle, distance!) }
    },
    moved: sharpBetween,
  },
  takes: [
    {
      label: 'take what is sharp',
      metres: distance => ({ distance }),
      shifted: (metres, held, seen) =>
        sharpBetween(metres < (held.distance as number) ? { near: metres } : { far: metres }, held, seen),
    },
    { label: 'take the nearest that is sharp', metres: (near, held, seen) => sharpBetween({ near }, held, seen) },
    { label: 'take the farthest that is sharp', metres: (far, held, seen) => sharpBetween({ far }, held, seen) },
    { label: 'follow what is sharp', metres: distance => ({ distance }), follows: 'distance' },
  ],
  reads: ['depth'],
  shown: { distance: 5.5, fNumber: 1.4, factor: 8 },
  plan: (input, { distance, fNumber, factor, most, shows, ...aperture }) => {
    const atInfinity = circleAtInfinity(input.camera(), fNumber, distance, input.width, factor)
    const how = { atInfinity, distance, most, aperture }
    if (shows === 'the picture') return eachAtItsDistance(input, part => outOfFocus(part, input, how))
    return pointNode(Circles, whole(input.colour), {
      circle: circleNode(input.depth(), how),
      sharp: SHARP / input.shrink,
      stripe: 1 / (STRIPE / input.shrink),
    })
  },
})
