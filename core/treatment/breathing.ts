import { value } from '../declare/field'
import { LENS_VALUES } from '../lens/values'
import { pointNode, whole } from '../plan/pointNode'
import { pointOf, Projected } from './projected'
import { shape, SHAPE_VALUES } from './shape'

/** Nearer than this many focal lengths no lens that is meant here is focused. */
const NEAREST = 2

/**
 * How much larger a thin lens shows everything at a focus than at infinity, its film standing as far behind it as the image
 * needs: s / (s - f).
 */
export const breathingOf = (distance: number, focalLength: number): number => {
  const lengths = Math.max(NEAREST, (distance * 1000) / focalLength)
  return lengths / (lengths - 1)
}

export const breathing = shape({
  id: 'breathing',
  label: 'Breathing',
  help: 'The picture grows a little the nearer a lens is focused, as lenses do whose glass moves as a whole: give the distance the keys of the focus pull.',
  group: 'Lens',
  sentence: 'Breathing {amount} as a lens does that is in focus at {distance}; {filter}, beyond the edge {beyond}',
  values: {
    amount: value(-10, 10, {
      label: 'amount',
      help: 'How much of it: 1 as a simple lens would, less than 0 the other way round.',
      step: 0.01,
      neutral: 0,
      first: 1,
    }),
    distance: LENS_VALUES.distance,
    ...SHAPE_VALUES,
    beyond: { ...SHAPE_VALUES.beyond, first: 'a mirror' },
  },
  neutral: ['amount'],
  takes: [
    { label: 'take what is sharp', metres: distance => ({ distance }) },
    { label: 'follow what is sharp', metres: distance => ({ distance }), follows: 'distance' },
  ],
  shown: { amount: 6, distance: 1 },
  places: ({ width, height, camera }, { amount, distance }, places) => {
    const own = camera()
    const back = breathingOf(distance, own.focalLength) ** -amount
    // About where the axis of the lens meets the picture
    const [x, y] = [width / 2 - (own.shiftX * width) / 2, height / 2 + (own.shiftY * height) / 2]
    return pointNode(Projected, whole(places), pointOf([back, 0, x * (1 - back), 0, back, y * (1 - back), 0, 0, 1]))
  },
})
