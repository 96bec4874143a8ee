import { choice, value } from '../declare/field'
import { point } from '../formula/point'
import type { Term } from '../formula/term'
import { splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

const VALUES = { start: splat, span: splat }
type Bend = { start: Term; span: Term }
/** Straight to the start; from there x / (1 + x) of the span, which begins as steep. */
function bent(value: Term, { start, span }: Bend): Term {
  const over = value.minus(start).atLeast(0).over(span)
  return value.isAbove(start).choose(start.plus(over.over(over.plus(1)).times(span)), value)
}
const Shoulder = point('Shoulder', VALUES, ({ colour, values }) => colour.map(channel => bent(channel, values)))
const ShoulderOfLight = point('ShoulderOfLight', VALUES, ({ colour, values }) => {
  const most = colour.red.atLeast(colour.green).atLeast(colour.blue)
  const safe = most.atLeast(1e-6)
  return colour.times(bent(safe, values).over(safe))
})

export const shoulder = treatment({
  id: 'shoulder',
  label: 'Soft shoulder',
  help: 'What is brighter than a start runs softly into a limit that it never reaches.',
  group: 'Light',
  sentence: 'Bend from {start} into {limit} by {of}',
  values: {
    start: value(0, 100, { label: 'start', help: 'Darker than this nothing changes.', step: 0.004, neutral: 0.8 }),
    limit: value(0.01, 65504, {
      label: 'limit',
      help: 'What the brightest comes near to.',
      step: 0.01,
      hand: [0.01, 100],
      neutral: 65504,
      first: 1,
    }),
    of: choice(['channels', 'brightness'], {
      label: 'by',
      help: 'Each channel, so that lights go white; or the strongest, so that they keep their colour.',
    }),
  },
  neutral: ['limit'],
  shown: { start: 0.1, limit: 0.5 },
  plan: (input, { start, limit, of }) =>
    pointNode(
      of === 'channels' ? Shoulder : ShoulderOfLight,
      input,
      { start, span: Math.max(1e-3, limit - start) },
      { straight: true },
    ),
})
