import { colourValues, value } from '../declare/field'
import { kernelNode, type Node } from '../plan/node'
import { cutTo } from '../plan/picture'
import { boxOfSize } from '../plan/size'
import { Fill, Wash } from '../../kernels/records'
import { CLOUD_VALUES, cloudNode } from './clouds'
import { layerKind, share } from './layer'
import { thickBetween } from './thick'

const metres = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(0.01, 1e6, { label, help, unit: 'm', step: 0.05, hand: [0.01, 100000], first })

export const fogBank = layerKind({
  id: 'fogbank',
  label: 'Fog bank',
  help: 'Fog between two distances: what stands in it comes out of it by and by, what is behind it is seen through all of it.',
  sentence: [
    'from {near} to {far} away, in {colour}, taking {dense} of what is behind all of it',
    'uneven by {uneven} in clouds {cloud} wide, drifted {drift_x} {drift_y}, boiled {boil}, seed {seed}',
  ].join('\n'),
  values: {
    near: metres('nearest', 'Where it begins.', 8),
    far: metres('farthest', 'Where it ends.', 60),
    colour: colourValues('', { help: 'Linear Rec.709.', first: [0.42, 0.5, 0.6] }),
    dense: { ...share('dense', 'How much of the light from behind all of it is lost in it.', 0), first: 0.5 },
    uneven: share('uneven', '0 even, 1 in clouds with clear air between.', 0),
    ...CLOUD_VALUES,
  },
  metres: ['near', 'far'],
  stands: 'amid',
  holds: 'nothing',
  standing: {
    metres: ({ near, far }) => (near + far) / 2,
    // As deep as it is; its beginning stays before the camera
    brought: ({ near, far }, _, to) => {
      const half = Math.abs(far - near) / 2
      return { near: Math.max(0.01, to - half), far: Math.max(0.01, to - half) + 2 * half }
    },
  },
  plan(input, v) {
    const { size } = input
    const window = boxOfSize(size)
    const [near, far] = [Math.min(v.near, v.far), Math.max(v.near, v.far, Math.min(v.near, v.far) * 1.000001)]
    const cover = v.dense
    if (cover <= 0) return undefined
    const [red, green, blue] = v.colour.map(part => Math.max(0, part) * cover) as [number, number, number]
    const even = kernelNode(Wash, { colour: [red, green, blue, cover] }, { window })
    // From all of it, evenly, to half of it in clouds
    const clouds = (): Node => cloudNode(v, size, { contrast: 2 * v.uneven, level: 1 - v.uneven / 2 })
    const colour = v.uneven > 0 ? cutTo(even, clouds()) : even
    const depth = (): Node => kernelNode(Fill, { value: (near + far) / 2 }, { window })
    return { colour, depth, byDepth: say => say(depth()), edge: depth, ...thickBetween(colour, near, far, window) }
  },
})
