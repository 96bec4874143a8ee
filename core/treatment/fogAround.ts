// Fog that scatters the light of the shot's surroundings.
import { point } from '../formula/point'
import type { Colour, Term, Terms } from '../formula/term'
import type { Node } from '../plan/node'
import { pointNode } from '../plan/pointNode'
import type { Camera } from '../scene/scene'
import { BAND_OF, harmonics, scatteredOf, type Ring, type Surroundings } from '../scene/surroundings'
import type { Vector3 } from '../scene/vector'
import { raster, shade, splat } from '../../kernels/record'
import { risesOf } from './rises'
import type { TreatmentInput } from './treatment'

const BANDS = Object.fromEntries(BAND_OF.map((_, i) => [`band${i}`, shade]))
const ringOf = (terms: Terms): Ring<Term> => ({
  constant: value => terms.constant(value),
  plus: (a, b) => a.plus(b),
  times: (a, b) => a.times(b),
})
const FogAround = point(
  'FogAround',
  {
    ...{ red: raster('single'), green: raster('single'), blue: raster('single'), tint: shade },
    ...{ right: shade, up: shade, forward: shade, side: splat, middleX: splat, middleY: splat },
    ...BANDS,
  },
  ({ colour, alpha, x, y, singles, values }) => {
    const { terms } = x
    const across = x.minus(values.middleX).times(values.side)
    const high = values.middleY.minus(y).times(values.side)
    const { right, up, forward } = values
    const way = (['red', 'green', 'blue'] as const).map(part =>
      right[part].times(across).plus(up[part].times(high)).plus(forward[part]),
    )
    const long = way
      .map(part => part.times(part))
      .reduce((sum, part) => sum.plus(part))
      .root()
    const [dx, dy, dz] = way.map(part => part.over(long)) as [Term, Term, Term]
    const all = harmonics(ringOf(terms), dx, dy, dz)
    const own = values as unknown as Record<string, Colour>
    return colour.map((channel, which) => {
      const light = all
        .map((value, i) => value.times(own[`band${i}`]![which]))
        .reduce((sum, part) => sum.plus(part))
        .atLeast(0)
      return channel.plus(light.times(values.tint[which]).times(alpha).minus(channel).times(singles[which]))
    })
  },
)

/** shares: of each channel how much of the light is lost on the way. forward: asymmetry of what is scattered. */
export function fogAround(
  input: TreatmentInput,
  camera: Camera,
  [red, green, blue]: readonly [Node, Node, Node],
  { light, turn, gain }: Surroundings,
  { forward, colour }: { forward: number; colour: readonly number[] },
): Node {
  const m = camera.matrix
  const angle = (turn * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
  // An axis of the camera as the picture of the surroundings has it before it is turned
  const axis = (at: number, sign = 1): Vector3 => {
    const [x, y, z] = [m[at]! * sign, m[at + 1]! * sign, m[at + 2]! * sign]
    return [x * cos + z * sin, y, z * cos - x * sin]
  }
  const { sideX, middleX, middleY } = risesOf(camera, input.width, input.height)
  const bands = Object.fromEntries(scatteredOf(light, forward).map((value, i) => [`band${i}`, value]))
  return pointNode(FogAround, input, {
    ...{ red, green, blue },
    tint: [colour[0]! * gain[0], colour[1]! * gain[1], colour[2]! * gain[2]],
    ...{ right: axis(0), up: axis(4), forward: axis(8, -1) },
    ...{ side: sideX, middleX, middleY },
    ...bands,
  } as never)
}
