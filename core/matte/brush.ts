import { strokesNode } from './drawn/node'
import { joined, turnedOver } from './join'
import { matteKind } from './matte'

export const brush = matteKind({
  id: 'brush',
  group: 'Drawn',
  label: 'Brush',
  help: 'What is brushed on the picture: strokes that give or take away, each kept as it was drawn.',
  sentence: '',
  values: {},
  plan: ({ strokes, area, invert }) => {
    const all = strokes()
    const last = all.at(-1)
    // Those before the last stay as they are while it is drawn, and are not made again
    const held =
      last && all.length > 1
        ? joined(
            strokesNode(all.slice(0, -1), area),
            strokesNode([{ ...last, takes: false }], area),
            last.takes ? 'not' : 'also',
          )
        : strokesNode(all, area)
    return invert ? turnedOver(held) : held
  },
})
