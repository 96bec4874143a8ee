import { colourValues } from '../declare/field'
import { kernelNode } from '../plan/node'
import { Ink } from '../../kernels/records'
import { layerKind, share } from './layer'
import { passShown } from './passlayer'

export const ink = layerKind({
  id: 'ink',
  label: 'Ink',
  help: 'The outline of a render: inked on what is behind it, or taken out of that. In a group with its render it stays on that alone.',
  sentence: 'inks the outline at {strength} in {colour}; takes it out of what is behind by {bite}',
  values: {
    strength: { ...share('ink', 'How much of the outline is inked.', 0), first: 0.8 },
    colour: colourValues('ink ', { help: 'Linear Rec.709.', neutral: 0 }),
    bite: share('taken out', 'How much of what is behind it is taken out along the outline.', 0),
  },
  stands: 'near',
  holds: 'pass',
  plan: input => passShown(input, 'outline', channels => input.passes!.colour(channels, 0)),
  lay: (_, source, line, { strength, colour, bite }) => {
    if (strength === 0 && bite === 0) return source
    const [red, green, blue] = colour.map(part => Math.max(0, part)) as [number, number, number]
    return kernelNode(Ink, { source, line, colour: [red, green, blue, 1], bite, strength }, { window: source.window })
  },
})
