import { value } from '../../declare/field'
import { gaussian } from '../../plan/gaussian'
import { grownMatte } from '../../plan/grown'
import { kernelNode } from '../../plan/node'
import { smooth } from '../../formula/colours'
import { raster } from '../../../kernels/record'
import { Grey } from '../../../kernels/records'
import { share, shareNode } from '../share'
import { refiner } from './refiner'

/** Of a matte, softened where it goes from out to in within the width: by how far apart the most and the least there are. */
const AtEdge = share(
  'EdgeSoftened',
  { most: raster('single'), least: raster('single'), soft: raster('colour') },
  ({ colour, singles: { most, least }, colours: { soft } }) =>
    colour.red.plus(soft.colour.red.minus(colour.red).times(smooth(most.minus(least).minus(0.5).times(2)))),
)

export const edge = refiner({
  id: 'edge',
  label: 'Edge softened',
  help: 'Only where it goes from out to in: what is half in all over stays as it is.',
  sentence: 'edge softened over {width}',
  values: {
    width: value(0, 60, {
      label: 'over',
      help: 'From one side of the edge to the other.',
      unit: 'px',
      pixels: 'size',
      step: 0.1,
      digits: 1,
      neutral: 0,
      first: 6,
    }),
  },
  plan: ({ matte, width: across, height }, { width }) => {
    if (width < 0.1) return matte
    const radius = width / 2
    const grey = kernelNode(Grey, { source: matte }, { window: matte.window })
    // A bell of a third of the way to each side
    const soft = gaussian(grey, radius / 3, { width: across, height })
    return shareNode(
      AtEdge,
      matte,
      { most: grownMatte(matte, radius), least: grownMatte(matte, -radius), soft },
      false,
      matte.window,
    )
  },
})
