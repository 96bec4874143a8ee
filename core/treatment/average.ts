import { whole } from '../declare/field'
import { finite } from '../plan/finite'
import type { Node } from '../plan/node'
import { kernelNode } from '../plan/node'
import { around } from '../engine/box'
import { SumLight } from '../../kernels/records'
import { treatment } from './treatment'
import { inWindow } from './weighted'

const MOST = 24
export const average = treatment({
  id: 'average',
  label: 'Average over frames',
  help: 'The mean of this frame and its neighbours: what moves goes soft, noise goes down.',
  group: 'Softness',
  sentence: 'Average over {before} frames before and {after} after',
  beside: true,
  values: {
    before: whole(0, MOST, {
      label: 'frames before',
      help: 'How many frames before this one count.',
      neutral: 0,
      first: 1,
    }),
    after: whole(0, MOST, {
      label: 'frames after',
      help: 'How many frames after this one count.',
      neutral: 0,
      first: 1,
    }),
  },
  reads: ['frames'],
  plan: ({ at, frame }, { before, after }) => {
    const count = before + after + 1
    const frames = Array.from({ length: count }, (_, i) => finite(at(frame - before + i).colour))
    const window = frames.map(node => node.window).reduce(around)
    // Weights in one chain: it is made band by band, however many frames there are
    return frames.reduce<Node | undefined>(
      (sum, light) => kernelNode(SumLight, { sum, light: inWindow(light, window), gain: 1 / count }, { window }),
      undefined,
    )!
  },
})
