import { choice, optional, value } from '../declare/field'
import { smooth } from '../formula/colours'
import { kernelNode } from '../plan/node'
import { splat } from '../../kernels/record'
import { DepthMatte, Fill } from '../../kernels/records'
import { ring, type FramePlace, type Numbers } from './handles'
import { matteKind } from './matte'
import { share, shareNode } from './share'

const ENDS = { fromX: splat, fromY: splat, alongX: splat, alongY: splat }
/** Along a line: 0 at its beginning, 1 at its end. */
const Line = share('GradientLine', ENDS, ({ x, y, values: v }) =>
  smooth(x.minus(v.fromX).times(v.alongX).plus(y.minus(v.fromY).times(v.alongY))),
)
/** Round its beginning: 1 there, 0 from so far on as its end is. */
const Round = share('GradientRound', { fromX: splat, fromY: splat, inverse: splat }, ({ x, y, values: v }) => {
  const dx = x.minus(v.fromX)
  const dy = y.minus(v.fromY)
  const far = dx.times(dx).plus(dy.times(dy)).root().times(v.inverse)
  return smooth(far.terms.constant(1).minus(far))
})
/** Round as an ellipse is, whose one half axis ends there. */
const Elliptic = share(
  'GradientElliptic',
  { fromX: splat, fromY: splat, alongX: splat, alongY: splat, aside: splat },
  ({ x, y, values: v }) => {
    const [dx, dy] = [x.minus(v.fromX), y.minus(v.fromY)]
    const along = dx.times(v.alongX).plus(dy.times(v.alongY))
    const side = dy.times(v.alongX).minus(dx.times(v.alongY)).times(v.aside)
    const far = along.times(along).plus(side.times(side)).root()
    return smooth(far.terms.constant(1).minus(far))
  },
)
const IN_FRAME = { name: 'shape', is: ['line', 'round', 'ellipse'] }
const IN_DEPTH = { name: 'shape', is: ['depth'] }
const place = (pixels: 'across' | 'down', label: string, help: string, first: number): ReturnType<typeof value> =>
  value(-1e6, 1e6, {
    label,
    help,
    unit: 'px',
    pixels,
    step: 1,
    digits: 0,
    hand: [-20000, 20000],
    first,
    with: IN_FRAME,
  })
const metres = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(0, 1e6, { label, help, unit: 'm', step: 0.02, hand: [0, 10000], first, with: IN_DEPTH })

export const gradient = matteKind({
  id: 'gradient',
  group: 'Drawn',
  label: 'Gradient',
  help: 'Smoothly from nothing to all along a line or with depth, or from all to nothing round a place.',
  sentence: '{shape} from {from_x} {from_y} {near} to {to_x} {to_y} {far} {aside}',
  values: {
    shape: choice(['line', 'round', 'ellipse', 'depth'], {
      label: 'shape',
      help: 'Along the line, round its beginning as far as its end, or from one distance to another.',
    }),
    from_x: place('across', 'from, across', 'Where it begins, from the left of the frame.', 640),
    from_y: place('down', 'from, down', 'Where it begins, from the top of the frame.', 500),
    to_x: place('across', 'to, across', 'Where it ends, from the left of the frame.', 640),
    to_y: place('down', 'to, down', 'Where it ends, from the top of the frame.', 150),
    aside: optional(
      value(0.01, 100, {
        label: 'aside',
        help: 'How far an ellipse reaches to its sides, as a share of how far its end is.',
        unit: '× aside',
        step: 0.01,
        hand: [0.05, 20],
        first: 0.5,
        with: { name: 'shape', is: ['ellipse'] },
      }),
    ),
    near: optional(metres('nothing at', 'So far from the camera it is nothing.', 5)),
    far: optional(metres('all at', 'So far from the camera it is all.', 30)),
  },
  metres: ['near', 'far'],
  reads: ['depth'],
  handles: ({ shape, from_x, from_y, to_x, to_y, aside }) => {
    if (shape === 'depth') return undefined
    const [dx, dy] = [to_x - from_x, to_y - from_y]
    const reach = shape === 'round' ? 1 : aside
    const round = (cosine: number, sine: number): FramePlace => [
      from_x + dx * cosine - dy * reach * sine,
      from_y + dy * cosine + dx * reach * sine,
    ]
    /** Across the line at one of its ends. */
    const bar = (x: number, y: number): FramePlace[] => [
      [x - dy / 2, y + dx / 2],
      [x + dy / 2, y - dx / 2],
    ]
    const side = round(0, 1)
    return {
      of: 'frame',
      grips: [
        { id: 'from', label: 'where it begins', at: [from_x, from_y] },
        { id: 'to', label: 'where it ends', at: [to_x, to_y] },
        ...(shape === 'ellipse' ? [{ id: 'aside', label: 'how far aside', at: side }] : []),
      ],
      lines: [
        [
          [from_x, from_y],
          [to_x, to_y],
        ],
        ...(shape === 'line' ? [bar(from_x, from_y), bar(to_x, to_y)] : [ring(round)]),
        ...(shape === 'ellipse' ? [[[from_x, from_y], side] as FramePlace[]] : []),
      ],
      moved: (grip, [x, y]): Numbers => {
        if (grip === 'to') return { to_x: x, to_y: y }
        if (grip === 'aside') return { aside: Math.hypot(x - from_x, y - from_y) / Math.max(1e-3, Math.hypot(dx, dy)) }
        // What is round is moved as a whole by its middle
        return shape === 'line' ? { from_x: x, from_y: y } : { from_x: x, from_y: y, to_x: x + dx, to_y: y + dy }
      },
    }
  },
  plan: (input, { shape, from_x, from_y, to_x, to_y, aside, near, far }) => {
    if (shape === 'depth')
      return input.byDepth(depth => {
        // All where it is nearer than the first end, turned over: what has no distance is beyond all
        const [low, high] = [Math.min(near, far), Math.max(near, far)]
        const invert = input.invert !== near <= far ? 1 : 0
        return kernelNode(
          DepthMatte,
          { depth, near: -1, far: low, soft: Math.max(1e-6, high - low), invert },
          { window: depth.window },
        )
      })
    const ground = kernelNode(Fill, { value: 0 }, { window: input.area })
    const [dx, dy] = [to_x - from_x, to_y - from_y]
    const long = Math.max(1e-3, Math.hypot(dx, dy))
    const from = { fromX: from_x + input.left, fromY: from_y + input.top }
    if (shape === 'line')
      return shareNode(Line, ground, { ...from, alongX: dx / long ** 2, alongY: dy / long ** 2 }, input.invert)
    if (shape === 'round') return shareNode(Round, ground, { ...from, inverse: 1 / long }, input.invert)
    const along = { alongX: dx / long ** 2, alongY: dy / long ** 2 }
    return shareNode(Elliptic, ground, { ...from, ...along, aside: 1 / aside }, input.invert)
  },
})
