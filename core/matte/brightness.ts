import { value } from '../declare/field'
import { BrightnessMatte } from '../../kernels/records'
import { kernelNode } from '../plan/node'
import { matteKind } from './matte'

const light = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(0, 1000, { label, help, step: 0.002, hand: [0, 16], digits: 3, first })

export const brightness = matteKind({
  id: 'brightness',
  group: 'Colours',
  label: 'Brightness',
  help: 'What is between two luminances (Rec.709) of the picture as it comes to this line, with soft ends.',
  sentence: 'between {low} and {high}, soft over {soft}',
  values: {
    low: light('from', 'Darker than this is not in it.', 0.5),
    high: light('to', 'Brighter than this is not in it.', 1000),
    soft: light('soft over', 'How much outside each end it takes to fade.', 0.2),
  },
  plan: (input, { low, high, soft }) =>
    kernelNode(
      BrightnessMatte,
      { source: input.colour, low, high: Math.max(low, high), soft, invert: input.invert ? 1 : 0 },
      { window: input.area },
    ),
})
