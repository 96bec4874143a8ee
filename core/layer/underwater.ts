import { choice, colourValues, number, value } from '../declare/field'
import type { EntryFields, ValuesAt } from '../declare/values'
import { wander } from '../engine/wander'
import { kernelNode } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { fullSize } from '../plan/size'
import { cross, normalized, scaled, type Vector3 } from '../scene/vector'
import { Mix } from '../../kernels/records'
import { raysOf } from './card'
import { placeMetres } from './figureValues'
import { layerKind, share, type Cast, type CastBy, type LayerInput } from './layer'
import { SHAFT_STEPS, UnderWater } from './underwaterLight'

const VALUES = {
  level: placeMetres('level', 'Height of the water in the world: the camera is as far below it as that.', 5),
  absorbs: colourValues('takes ', {
    help: 'Of each metre of its way what light loses, as an exponent: red first in clear water.',
    first: [0.36, 0.09, 0.07],
  }),
  colour: colourValues('', {
    help: 'Of the light in it, just under the surface, linear Rec.709.',
    first: [0.03, 0.16, 0.2],
  }),
  dims: {
    ...share(
      'darker',
      'How much of that loss the light from above has on its way down too: 1 all, 0 as light as above.',
      0,
    ),
    first: 0.4,
  },
  floor: choice(['none', 'level'], {
    label: 'floor',
    help: 'Whether what no distance is known of, the plate, has a level floor: its ground.',
    first: 'level',
  }),
  floor_at: { ...placeMetres('floor at', 'Height of the floor.', 0), with: { name: 'floor', is: ['level'] } },
  sky: value(0.1, 1e6, {
    label: 'farthest',
    help: 'How far away that stands which no distance is known of.',
    unit: 'm',
    step: 0.5,
    hand: [0.1, 10000],
    first: 200,
  }),
  shafts: { ...share('shafts', 'How much brighter and darker the light stands in shafts.', 0), first: 0.35 },
  shafts_from: choice(['above', 'by hand'], { label: 'come from', neutral: 'above' }),
  heading: {
    ...number(-3600, 3600, {
      label: 'heading',
      help: 'Whence they come: 0 from behind the scene (-Z), 90 from the right (+X).',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 20,
    }),
    with: { name: 'shafts_from', is: ['by hand'] },
  },
  height: {
    ...number(1, 90, { label: 'height', unit: '°', step: 0.2, digits: 1, first: 60 }),
    with: { name: 'shafts_from', is: ['by hand'] },
  },
  many: value(1, 200, { label: 'how many', help: 'Shafts all round.', step: 0.2, digits: 0, first: 48 }),
  speed: number(0, 20, { label: 'speed', help: 'How fast they come and go.', step: 0.01, first: 0.6 }),
  seed: number(0, 9999, { label: 'seed', help: 'Another number, other shafts.', step: 1, digits: 0, first: 1 }),
} as const satisfies EntryFields
type UnderwaterValues = ValuesAt<typeof VALUES>

export const underwater = layerKind({
  id: 'underwater',
  label: 'Under water',
  help: 'All of the picture lies under water: light is lost and scattered by true distance and depth, in shafts.',
  sentence: [
    'under water up to {level}, that takes {absorbs}, lit {colour}, darker below by {dims}; floor {floor}[ at {floor_at}], where nothing stands {sky} far',
    'shafts {shafts} from {shafts_from}[ {heading}, {height} high], {many} of them, moving at {speed}, seed {seed}',
  ].join('\n'),
  values: VALUES,
  stands: 'near',
  everywhere: true,
  holds: 'nothing',
  plan: () => undefined,
  casts: (input, values, by) => [castOf(input, values, by)],
})

/** So far below the camera, metres, that no ray meets it before all is lost. */
const NO_FLOOR = 1e9

function castOf(input: LayerInput, values: UnderwaterValues, by: CastBy): Cast {
  return {
    lay: picture => {
      const where = by.where('matte', picture)
      if (!where || by.opacity === 0) return picture
      const { matrix: m } = input.camera()
      const { size } = input
      const { width, height } = fullSize(size)
      const { across, down, first } = raysOf(input.camera(), width, height)
      const absorbs = values.absorbs.map(part => Math.max(0, part)) as unknown as Vector3
      const { right, up } = shaftAxes(values)
      const wet = pointNode(UnderWater, whole(picture.colour), {
        across: scaled(across, size.shrink),
        down: scaled(down, size.shrink),
        first,
        deep: Math.max(0, values.level - m[13]!),
        absorbs,
        dims: scaled(absorbs, values.dims),
        light: values.colour.map(part => Math.max(0, part)) as unknown as Vector3,
        farthest: values.sky,
        floor: values.floor === 'level' ? values.floor_at - m[13]! : -NO_FLOOR,
        depth: picture.depth(),
        ...{ right, up, amount: values.shafts },
        shafts: shaftTable(values, input.frame / input.rate),
      })
      // What is seen beside all that stands there is water too
      const opaque = by.lined({ ...picture, colour: wet })
      if (where === 'everywhere' && by.opacity === 1) return { ...picture, colour: opaque }
      const matte = where === 'everywhere' ? undefined : where
      const { window } = picture.colour
      return {
        ...picture,
        colour: kernelNode(Mix, { first: picture.colour, second: opaque, matte, share: by.opacity }, { window }),
      }
    },
  }
}

/** Whence shafts come, and two ways across that: which shaft a ray is in is said by its angle round it. */
function shaftAxes({ shafts_from, heading, height }: UnderwaterValues): Record<'right' | 'up', Vector3> {
  const [turn, high] = (shafts_from === 'above' ? [0, 90] : [heading, height]).map(
    degrees => (degrees * Math.PI) / 180,
  ) as [number, number]
  const toward: Vector3 = [Math.sin(turn) * Math.cos(high), Math.sin(high), -Math.cos(turn) * Math.cos(high)]
  const right = normalized(cross(Math.abs(toward[1]) > 0.99 ? [0, 0, 1] : [0, 1, 0], toward))
  return { right, up: cross(toward, right) }
}

/** How bright it is all round at a time, seconds: -1 to 1, closed upon itself; three sizes of shafts. */
function shaftTable({ many, speed, seed }: UnderwaterValues, seconds: number): Float32Array {
  return Float32Array.from({ length: SHAFT_STEPS }, (_, i) => {
    const angle = (i / (SHAFT_STEPS - 1)) * 2 * Math.PI
    let sum = 0
    for (let octave = 0; octave < 3; octave++) {
      const wide = (many / (2 * Math.PI)) * 2 ** octave
      // Round a ring in a plane of noise, which has no seam
      const [x, y] = [Math.cos(angle) * wide, Math.sin(angle) * wide]
      const own = seed * 31 + octave * 7
      sum += (wander(x + seconds * speed, own) + wander(y - seconds * speed * 0.7, own + 3)) * 0.5 ** (octave + 1)
    }
    return Math.min(1, Math.max(-1, sum * 1.4))
  })
}
