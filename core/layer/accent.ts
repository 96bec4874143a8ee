import { common, grown, isEmpty, type Box } from '../engine/box'
import { project } from '../match/project'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { boxOfSize, fullSize } from '../plan/size'
import { rgb, xyz } from '../render/passdefinition'
import { scaled, type Vector3 } from '../scene/vector'
import { CUT_REACH } from '../../kernels/assembly/layout'
import { Clear, DepthSlice, Mix } from '../../kernels/records'
import { AccentOnPlate, AccentOnRender, Halo } from './accentLight'
import { accentHandles } from './accentHandles'
import { ACCENT_VALUES, type AccentValues } from './accentValues'
import { broughtAlong } from './brought'
import { BEFORE, metresTo, pixelsAtOne, raysOf } from './card'
import { irradianceOf, placesOf, skyPlaces } from './castLights'
import { flat, layerKind, type Cast, type CastBy, type LayerInput, type Shown } from './layer'
import { laidOver } from './laid'

/** So many of its sizes from its middle a halo is cut: a fifty thousandth of it is left there. */
const HALO_REACHES = 36

export const accent = layerKind({
  id: 'accent',
  label: 'Light accent',
  help: 'A small lamp that is not in the scene: it lights what is round it by its true distance, without rendering, and has a halo.',
  sentence: [
    'at {x} {y} {z}, {colour} at {stops}, {radius} in radius',
    'falls {falls}[ at {level}]; its halo {halo}, {halo_size} wide',
  ].join('\n'),
  values: ACCENT_VALUES,
  stands: 'amid',
  holds: 'lamp',
  begins: { mode: 'add' },
  standing: {
    metres: ({ x, y, z }, camera) => metresTo(camera, [x, y, z]),
    brought: ({ x, y, z }, camera, to) => broughtAlong([x, y, z], camera, to),
  },
  handles: accentHandles,
  plan: () => undefined,
  casts: (input, values, by) => [castOf(input, values, by)],
})

function castOf(input: LayerInput, values: AccentValues, by: CastBy): Cast {
  const power = scaled(values.colour.map(part => Math.max(0, part)) as unknown as Vector3, 2 ** values.stops)
  return {
    lay: picture => {
      const where = by.where('matte', picture)
      const lit = where ? litBy(input, values, power, picture, by.opacity, where) : picture.colour
      return haloOver(input, values, power, { ...picture, colour: lit }, by)
    },
  }
}

function litBy(
  input: LayerInput,
  values: AccentValues,
  power: Vector3,
  picture: Shown,
  opacity: number,
  where: Node | 'everywhere',
): Node {
  const { size, passes } = input
  const camera = input.camera()
  const { matrix: m } = camera
  const { width, height } = fullSize(size)
  const { across, down, first } = raysOf(camera, width, height)
  const given = {
    across: scaled(across, size.shrink),
    down: scaled(down, size.shrink),
    ...{ first, eye: [m[12]!, m[13]!, m[14]!] as Vector3, lamp: [values.x, values.y, values.z] as Vector3, power },
    ...{ least: values.radius ** 2, level: values.level, depth: picture.depth() },
    over: values.falls === 'on the render alone' ? ([0, 0, 0] as Vector3) : overScene(input, values),
  }
  const places = passes?.places()
  const normal = passes?.plain(xyz('normal'))
  const albedo = passes?.plain(rgb('albedo'))
  const source = whole(picture.colour)
  const lit =
    passes && places && normal && albedo
      ? pointNode(AccentOnRender, source, { ...given, own: passes.single('depth.Z'), place: places, normal, albedo })
      : pointNode(AccentOnPlate, source, given)
  return where === 'everywhere' && opacity === 1
    ? lit
    : kernelNode(
        Mix,
        { first: picture.colour, second: lit, matte: where === 'everywhere' ? undefined : where, share: opacity },
        { window: picture.colour.window },
      )
}

/** One over what lights the ground below it without it, W/m². Of a scene without light: as bright all round as white is. */
function overScene(input: LayerInput, { x, level, z }: AccentValues): Vector3 {
  const foot: Vector3 = [x, level, z]
  const lights = input.lights()
  const surroundings = input.surroundings()
  const places = [
    ...lights.flatMap(light => placesOf(light, foot)),
    ...(surroundings || !lights.length ? skyPlaces(surroundings) : []),
  ]
  return irradianceOf(places, foot).map(part => 1 / Math.max(1e-3, part)) as unknown as Vector3
}

/** Its halo in the air, before what is farther. */
function haloOver(input: LayerInput, values: AccentValues, power: Vector3, picture: Shown, by: CastBy): Shown {
  const { size } = input
  const camera = input.camera()
  const metres = metresTo(camera, [values.x, values.y, values.z])
  if (!(values.halo > 0) || !(metres > BEFORE) || by.opacity === 0) return picture
  const { width, height } = fullSize(size)
  const { u, v } = project(camera, width / height, [values.x, values.y, values.z])
  const [middleX, middleY] = [(u * width) / size.shrink, (v * height) / size.shrink]
  const wide = ((pixelsAtOne(camera, width) / metres) * values.halo_size) / size.shrink
  const around: Box = {
    left: Math.floor(middleX),
    top: Math.floor(middleY),
    right: Math.ceil(middleX),
    bottom: Math.ceil(middleY),
  }
  const window = common(boxOfSize(size), grown(around, Math.ceil(wide * HALO_REACHES)))
  if (isEmpty(window)) return picture
  const radiance = scaled(power, values.halo / (Math.PI * values.halo_size ** 2))
  const air = pointNode(Halo, whole(kernelNode(Clear, {}, { window })), {
    ...{ middleX, middleY, over: 1 / Math.max(0.3, wide), radiance },
  })
  const shown = flat(air, metres, size)
  const own = { ...shown, colour: by.lined(shown) }
  const before = kernelNode(
    DepthSlice,
    { source: picture.colour, far: picture.nearer(metres) },
    { window: picture.colour.window, reach: CUT_REACH },
  )
  const isNearest = metres <= picture.span.near
  const laid = laidOver(picture, own, by.mode, by.opacity)
  return isNearest ? laid : laidOver(laid, { ...picture, colour: before }, 'over', 1)
}
