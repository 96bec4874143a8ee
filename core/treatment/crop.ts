import { value } from '../declare/field'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { pointNode, whole } from '../plan/pointNode'
import { splat } from '../../kernels/record'
import { shape } from './shape'

/** How much of a place is within a box, over a soft border; half a pixel at least, so that its edge is no stair. */
const Cropped = point(
  'Cropped',
  { left: splat, top: splat, right: splat, bottom: splat, slope: splat },
  ({ colour: { red: x, green: y, blue }, values: v }) => {
    const inside = x.minus(v.left).atMost(v.right.minus(x)).atMost(y.minus(v.top)).atMost(v.bottom.minus(y))
    const share = inside.times(v.slope).plus(0.5).atLeast(0).atMost(1)
    // Steady at both ends where it is wide
    const smooth = share.times(share).times(share.terms.constant(3).minus(share.times(2)))
    return new Colour(x, y, blue.times(v.slope.isAtLeast(0.9).choose(share, smooth)))
  },
)
const side = (label: string, pixels: 'across' | 'down'): ReturnType<typeof value> =>
  value(-1e5, 1e5, {
    label,
    help: `How much is cut off there, in pixels of the full frame.`,
    unit: 'px',
    pixels,
    step: 0.5,
    digits: 1,
    neutral: 0,
  })

export const crop = shape({
  id: 'crop',
  label: 'Crop',
  help: 'Cuts off the sides, with a soft border if wanted.',
  sentence: 'Cropped by {left} left, {top} above, {right} right, {bottom} below, soft over {feather}',
  values: {
    left: side('left', 'across'),
    top: side('above', 'down'),
    right: side('right', 'across'),
    bottom: side('below', 'down'),
    feather: value(0, 4000, {
      label: 'softness',
      help: 'How wide its border is, half of it within, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 1,
      first: 0,
    }),
  },
  neutral: ['left', 'top', 'right', 'bottom'],
  shown: { left: 60, top: 40, right: 60, bottom: 40, feather: 40 },
  filter: 'straight',
  places: ({ width, height }, v, places) =>
    pointNode(Cropped, whole(places), {
      ...{ left: v.left, top: v.top, right: width - v.right, bottom: height - v.bottom },
      slope: 1 / Math.max(1, v.feather),
    }),
})
