import { kernelNode } from '../plan/node'
import { AddLight } from '../../kernels/records'
import { layerKind, share } from './layer'
import { passShown } from './passlayer'

export const air = layerKind({
  id: 'air',
  label: 'Air',
  help: 'The air of a render: takes of what is behind it what mist and smoke in the scene take, and adds the light that they send.',
  sentence: 'lays the air over what is behind it at {amount}',
  values: { amount: share('air', '1 as rendered, 0 clear.', 1) },
  stands: 'near',
  holds: 'pass',
  pass: 'volume',
  plan: input =>
    input.passes?.file.planes.has('volume.A')
      ? passShown(input, 'volume', channels => input.passes!.colour(channels.slice(0, 3), 0))
      : undefined,
  lay: ({ passes }, source, light, { amount }) =>
    amount === 0
      ? source
      : kernelNode(
          AddLight,
          { source, light, cover: passes!.colour(['volume.A'], 0), amount },
          { window: source.window },
        ),
})
