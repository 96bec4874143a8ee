import { value } from '../declare/field'
import { within } from '../declare/values'
import { circleAtInfinity, distanceOfCircle } from '../lens/focus'
import { LENS_VALUES } from '../lens/values'
import { outOfFocus } from '../plan/outOfFocus'
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

export const focus = treatment({
  id: 'focus',
  label: 'Focus',
  help: 'Takes what is nearer or farther than the focus out of it, as the lens of the shot’s camera would at that f-number.',
  group: 'Lens',
  sentence:
    'In focus at {distance}, else as a lens at f/{fNumber} {factor} times over, circles up to {most}; {blades} blades turned {turn}, {squeeze} times taller than wide, rim {rim}, cat’s eye {catsEye}',
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
  },
  neutral: ['factor'],
  takes: [
    { label: 'take what is sharp', metres: distance => ({ distance }) },
    { label: 'take the nearest that is sharp', metres: (near, held, seen) => sharpBetween({ near }, held, seen) },
    { label: 'take the farthest that is sharp', metres: (far, held, seen) => sharpBetween({ far }, held, seen) },
  ],
  reads: ['depth'],
  shown: { distance: 5.5, fNumber: 1.4, factor: 8 },
  plan: (input, { distance, fNumber, factor, most, ...aperture }) =>
    outOfFocus(input, input, {
      atInfinity: circleAtInfinity(input.camera(), fNumber, distance, input.width, factor),
      distance,
      most,
      aperture,
    }),
})
