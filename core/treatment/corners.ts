import { value } from '../declare/field'
import { pointNode, whole } from '../plan/pointNode'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { pointOf, Projected, projection } from './projected'
import { shape, SHAPE_SENTENCE, SHAPE_VALUES } from './shape'

const Nowhere = point('Nowhere', {}, ({ colour: { red, green } }) => new Colour(red, green, red.terms.constant(0)))
const corner = (of: string, way: 'across' | 'down'): ReturnType<typeof value> =>
  value(-1e5, 1e5, {
    label: `${of} ${way}`,
    help: `How far its ${of} corner is moved ${way === 'across' ? 'to the right' : 'down'}, in pixels of the full frame.`,
    unit: 'px',
    pixels: way,
    step: 0.5,
    digits: 1,
    neutral: 0,
  })

const CORNERS = [
  { id: 'left_top', label: 'left top corner', right: 0, down: 0 },
  { id: 'right_top', label: 'right top corner', right: 1, down: 0 },
  { id: 'right_bottom', label: 'right bottom corner', right: 1, down: 1 },
  { id: 'left_bottom', label: 'left bottom corner', right: 0, down: 1 },
]

export const corners = shape({
  id: 'corners',
  label: 'Four corners',
  help: 'The picture drawn by its four corners, in perspective: laid on a wall, a screen, a sign.',
  sentence: `Corners moved: left top {left_top_x} {left_top_y}, right top {right_top_x} {right_top_y}, right bottom {right_bottom_x} {right_bottom_y}, left bottom {left_bottom_x} {left_bottom_y}${SHAPE_SENTENCE}`,
  handles: (values, { width, height }) => {
    const of = (name: string): number => values[name] as number
    const grips = CORNERS.map(({ id, label, right, down }) => ({
      ...{ id, label },
      at: [right * width + of(`${id}_x`), down * height + of(`${id}_y`)] as const,
    }))
    return {
      of: 'frame',
      grips,
      lines: [[...grips, grips[0]!].map(({ at }) => at)],
      moved: (id, [x, y]) => {
        const { right, down } = CORNERS.find(one => one.id === id)!
        return { [`${id}_x`]: x - right * width, [`${id}_y`]: y - down * height }
      },
    }
  },
  values: {
    left_top_x: corner('left top', 'across'),
    left_top_y: corner('left top', 'down'),
    right_top_x: corner('right top', 'across'),
    right_top_y: corner('right top', 'down'),
    right_bottom_x: corner('right bottom', 'across'),
    right_bottom_y: corner('right bottom', 'down'),
    left_bottom_x: corner('left bottom', 'across'),
    left_bottom_y: corner('left bottom', 'down'),
    ...SHAPE_VALUES,
  },
  neutral: ['left_top', 'right_top', 'right_bottom', 'left_bottom'].flatMap(name => [`${name}_x`, `${name}_y`]),
  shown: { left_top_x: 60, left_top_y: 40, right_top_x: -30, right_bottom_y: -50, left_bottom_x: -20 },
  places: ({ width, height }, v, places) => {
    const from = [
      [0, 0],
      [width, 0],
      [width, height],
      [0, height],
    ] as const
    const moved = [
      [v.left_top_x, v.left_top_y],
      [v.right_top_x, v.right_top_y],
      [v.right_bottom_x, v.right_bottom_y],
      [v.left_bottom_x, v.left_bottom_y],
    ].map(([x, y], i) => [from[i]![0] + x!, from[i]![1] + y!] as const)
    // From the result back to the picture; what is folded has no inside
    const back = projection(moved, from)
    return back ? pointNode(Projected, whole(places), pointOf(back)) : pointNode(Nowhere, whole(places), {})
  },
})
