import { value } from '../declare/field'
import { splat } from '../../kernels/record'
import { matteKind } from './matte'
import { share, shareNode, within } from './share'

const Closed = share('OcclusionMatte', { low: splat, high: splat, soft: splat }, ({ colour: { red }, values: v }) =>
  within(red.terms.constant(1).minus(red), v.low, v.high, v.soft),
)
const part = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(0, 1, { label, help, step: 0.002, digits: 3, first })

export const occlusion = matteKind({
  id: 'occlusion',
  group: 'Space',
  label: 'Occlusion',
  help: 'Creases and contacts: what is closed in by so much, 0 in the open, 1 shut in. Of the pass occlusion.',
  sentence: 'closed in from {low} to {high}, soft over {soft}',
  values: {
    low: part('from', 'What is more open is not in it.', 0.4),
    high: part('to', 'What is more closed is not in it.', 1),
    soft: part('soft over', 'How much outside each end it takes to fade.', 0.3),
  },
  reads: ['passes'],
  needs: () => 'occlusion',
  plan: (input, { low, high, soft }) => {
    const source = input.pass('occlusion')
    return source && shareNode(Closed, source, { low, high: Math.max(low, high), soft }, input.invert)
  },
})
