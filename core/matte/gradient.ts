import { choice, value } from '../declare/field'
import { smooth } from '../formula/colours'
import { kernelNode } from '../plan/node'
import { splat } from '../../kernels/record'
import { Fill } from '../../kernels/records'
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
const across = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(-1e6, 1e6, { label, help, unit: 'px', pixels: 'across', step: 1, digits: 0, hand: [-20000, 20000], first })
const down = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(-1e6, 1e6, { label, help, unit: 'px', pixels: 'down', step: 1, digits: 0, hand: [-20000, 20000], first })

export const gradient = matteKind({
  id: 'gradient',
  label: 'Gradient',
  help: 'Smoothly from nothing to all along a line, or from all to nothing round a place.',
  sentence: '{shape} from {from_x} {from_y} to {to_x} {to_y}',
  values: {
    shape: choice(['line', 'round'], {
      label: 'shape',
      help: 'Along the line, or round its beginning as far as its end.',
    }),
    from_x: across('from, across', 'Where it begins, from the left of the frame.', 640),
    from_y: down('from, down', 'Where it begins, from the top of the frame.', 500),
    to_x: across('to, across', 'Where it ends, from the left of the frame.', 640),
    to_y: down('to, down', 'Where it ends, from the top of the frame.', 150),
  },
  plan: (input, { shape, from_x, from_y, to_x, to_y }) => {
    const ground = kernelNode(Fill, { value: 0 }, { window: input.area })
    const [dx, dy] = [to_x - from_x, to_y - from_y]
    const long = Math.max(1e-3, Math.hypot(dx, dy))
    const from = { fromX: from_x + input.left, fromY: from_y + input.top }
    return shape === 'line'
      ? shareNode(Line, ground, { ...from, alongX: dx / long ** 2, alongY: dy / long ** 2 }, input.invert)
      : shareNode(Round, ground, { ...from, inverse: 1 / long }, input.invert)
  },
})
