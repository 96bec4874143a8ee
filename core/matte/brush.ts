import { strokesNode } from './drawn/node'
import { turnedOver } from './join'
import { matteKind } from './matte'

export const brush = matteKind({
  id: 'brush',
  label: 'Brush',
  help: 'What is brushed on the picture: strokes that give or take away, each kept as it was drawn.',
  sentence: '',
  values: {},
  plan: ({ strokes, area, invert }) => {
    const held = strokesNode(strokes(), area)
    return invert ? turnedOver(held) : held
  },
})
