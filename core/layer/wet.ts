import { kernelNode } from '../plan/node'
import { AddLight } from '../../kernels/records'
import { layerKind, share } from './layer'
import { passShown } from './passlayer'

export const wet = layerKind({
  id: 'wet',
  label: 'Wet ground',
  help: 'What wet ground mirrors of a render: the light of the wet pass is added to what is behind it.',
  sentence: 'adds what wet ground mirrors at {amount}',
  values: { amount: share('wet ground', '1 as rendered.', 1, 4) },
  stands: 'far',
  holds: 'pass',
  pass: 'wet',
  plan: input => passShown(input, 'wet', channels => input.passes!.colour(channels, 0)),
  lay: (_, source, light, { amount }) =>
    amount === 0 ? source : kernelNode(AddLight, { source, light, amount }, { window: source.window }),
})
