import { kernelNode } from '../plan/node'
import { Fill } from '../../kernels/records'
import { contourNode } from './drawn/node'
import { joined, turnedOver } from './join'
import { matteKind } from './matte'
import type { Node } from '../plan/node'

export const shape = matteKind({
  id: 'shape',
  group: 'Drawn',
  label: 'Shapes',
  help: 'What lies within shapes drawn on the picture, closed or open, with edges as soft as each of their points says.',
  sentence: '',
  values: {},
  plan: ({ shapes, area, invert }) => {
    const whole = shapes().reduce<Node | undefined>(
      (before, { contour, join }) => joined(before, contourNode(contour, area), join),
      undefined,
    )
    // Nothing is drawn yet
    const held = whole ?? kernelNode(Fill, { value: 0 }, { window: area })
    return invert ? turnedOver(held) : held
  },
})
