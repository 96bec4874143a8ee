import { value } from '../declare/field'
import { around } from '../engine/box'
import { kernelNode, type Node } from '../plan/node'
import { SumLight } from '../../kernels/records'
import { treatment } from './treatment'
import { inWindow } from './weighted'

export const grainBack = treatment({
  id: 'grain_back',
  label: 'Own grain back',
  help: 'Lays back the grain that lines before it in the recipe took out: what lies between was worked on clean. Of a picture brought to another place or size its grain is no longer known.',
  group: 'Lens',
  sentence: 'Lay back {amount} of the grain that was taken out',
  beside: true,
  values: {
    amount: value(0, 4, {
      label: 'amount',
      help: 'Share of what was taken out: 1 all of it, as it was.',
      step: 0.004,
      neutral: 0,
      first: 1,
    }),
  },
  plan: ({ colour, grain = [] }, { amount }) => {
    const window = grain.flatMap(({ before, after }) => [before.window, after.window]).reduce(around, colour.window)
    return grain
      .flatMap(({ before, after }) => [
        { light: before, gain: amount },
        { light: after, gain: -amount },
      ])
      .reduce<Node>(
        (sum, { light, gain }) => kernelNode(SumLight, { sum, light: inWindow(light, window), gain }, { window }),
        inWindow(colour, window),
      )
  },
})
