import { value } from '../declare/field'
import { DepthMatte } from '../../kernels/records'
import { kernelNode } from '../plan/node'
import { matteKind } from './matte'

const metres = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(0, 1e6, { label, help, unit: 'm', step: 0.02, hand: [0, 10000], first })

export const depth = matteKind({
  id: 'depth',
  group: 'Space',
  label: 'Depth',
  help: 'What stands between two distances from the camera, with soft ends. What has no distance is beyond all.',
  sentence: 'from {near} to {far}, soft over {soft}',
  values: {
    near: metres('from', 'Nearer than this is not in it.', 0),
    far: metres('to', 'Farther than this is not in it.', 20),
    soft: metres('soft over', 'Metres outside each end over which it fades.', 1),
  },
  metres: ['near', 'far'],
  reads: ['depth'],
  plan: (input, { near, far, soft }) =>
    input.byDepth(depth =>
      kernelNode(
        DepthMatte,
        { depth, near, far: Math.max(near, far), soft, invert: input.invert ? 1 : 0 },
        { window: depth.window },
      ),
    ),
})
