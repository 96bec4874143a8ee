import { colourValues } from '../declare/field'
import { kernelNode } from '../plan/node'
import { boxOfSize } from '../plan/size'
import { Wash } from '../../kernels/records'
import { DISTANCE, flat, layerKind } from './layer'

export const wash = layerKind({
  id: 'wash',
  label: 'Colour wash',
  help: 'One colour over all that is farther away.',
  sentence: 'in {colour}, over all that is farther away than {distance}',
  values: {
    colour: colourValues('', { help: 'Linear Rec.709.', first: [0.42, 0.5, 0.6] }),
    distance: { ...DISTANCE, first: 10 },
  },
  stands: 'at',
  behindNames: true,
  holds: 'nothing',
  begins: { opacity: 0.3 },
  plan({ size }, { colour, distance }) {
    const [red, green, blue] = colour.map(part => Math.max(0, part)) as [number, number, number]
    return flat(kernelNode(Wash, { colour: [red, green, blue, 1] }, { window: boxOfSize(size) }), distance, size)
  },
})
