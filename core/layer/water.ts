import { boxOf, heightOf, widthOf, type Box } from '../engine/box'
import { finite } from '../plan/finite'
import { kernelNode, type Node } from '../plan/node'
import { reduced } from '../plan/reduced'
import { boxOfSize, fullSize } from '../plan/size'
import { NO_DEPTH } from '../render/passes'
import type { Camera } from '../scene/scene'
import { scaled, type Vector3 } from '../scene/vector'
import { DepthSlice, NearestOfBlock, WaterMetres, WaterMirror, WaterSurface, WetRim } from '../../kernels/records'
import {
  CUT_REACH,
  WATER_BLOCK,
  WATER_COLOUR,
  WATER_LAMP,
  WATER_PLACE,
  WATER_RAYS,
} from '../../kernels/assembly/layout'
import { pixelsAtOne, raysOf } from './card'
import { lampAt } from './castLights'
import { FAR, layerKind, type Cast, type CastBy, type LayerInput, type Shown } from './layer'
import { laidOver } from './laid'
import { waterHandles } from './waterHandles'
import { WATER_VALUES, type WaterValues } from './waterValues'
import { wavesAt, waveTable } from './waterWaves'

export const water = layerKind({
  id: 'water',
  label: 'Standing water',
  help: 'Water at a level: what stands over it is mirrored where it truly would be, by its distance; waves bend it, lights glitter on it.',
  sentence: [
    'stands at {level}, its shore {shore} away, things {thick} thick',
    'mirrors {mirrors}, clear {clear}, its depth {water}, rough by {rough}',
    'waves of {wave_length} steep by {wave_steep}, ripples of {ripple_length} steep by {ripple_steep}, in wind to {heading} at {speed} of their speed, seed {seed}',
    'glitter {glitter} of {glitter_of}; what stands in it wet up to {rim}, darker by {rim_dark}',
  ].join('\n'),
  values: WATER_VALUES,
  stands: 'amid',
  holds: 'nothing',
  standing: { metres: ({ shore }) => shore, brought: (_, __, metres) => ({ shore: metres }) },
  handles: waterHandles,
  plan: () => undefined,
  casts: (input, values, by) => (input.camera().matrix[13]! > values.level ? [castOf(input, values, by)] : []),
})

/** Rays of a pixel; one while one works at a smaller size. */
const RAYS = 4
/** Levels of the picture that are drawn out. */
const LEVELS = 5

function castOf(input: LayerInput, values: WaterValues, by: CastBy): Cast {
  const { size } = input
  const window = boxOfSize(size)
  const place = placeOf(input.camera(), input, values)
  const surface = kernelNode(
    WaterSurface,
    { place, ...waveTable(wavesAt(values, input.frame / input.rate)) },
    { window },
  )
  const metres = (nothing: number): Node => kernelNode(WaterMetres, { surface, nothing }, { window })
  return {
    lay: picture => {
      const where = by.where('matte', picture)
      if (!where) return picture
      const depth = picture.depth()
      const rimmed: Node =
        // Of water of a shape of its own it is not told what stands in it
        where === 'everywhere' && values.rim > 0 && values.rim_dark > 0
          ? kernelNode(
              WetRim,
              { source: picture.colour, depth, place, high: values.rim, amount: values.rim_dark * by.opacity },
              { window },
            )
          : picture.colour
      const wet: Shown = { ...picture, colour: rimmed }
      const own = by.lined({
        colour: mirrorOf(input, values, { wet, depth, surface, place, window, where }),
        ...standingAt(metres(NO_DEPTH)),
      })
      const shown: Shown = {
        ...standingAt(metres(NO_DEPTH)),
        colour: own,
        edge: () => metres(NO_DEPTH),
        nearer: than => wet.nearer(than),
        stacked: false,
        span: { near: 0, far: FAR },
      }
      // Over all that is farther; what is nearer is laid on it again
      const before = kernelNode(
        DepthSlice,
        { source: rimmed, far: picture.nearer(metres(0)) },
        { window, reach: CUT_REACH },
      )
      return laidOver(laidOver(wet, shown, by.mode, by.opacity), { ...wet, colour: before }, 'over', 1)
    },
  }
}
const standingAt = (depth: Node): Pick<Shown, 'depth' | 'byDepth'> => ({
  depth: () => depth,
  byDepth: say => say(depth),
})

interface Made {
  wet: Shown
  depth: Node
  surface: Node
  place: Float32Array
  window: Box
  where: Node | 'everywhere'
}
function mirrorOf(input: LayerInput, values: WaterValues, { wet, depth, surface, place, window, where }: Made): Node {
  const first = finite(wet.colour)
  const levels = Array.from({ length: LEVELS }, (_, i) => reduced(first, i)) as [Node, Node, Node, Node, Node]
  const blocks = boxOf(Math.ceil(widthOf(window) / WATER_BLOCK), Math.ceil(heightOf(window) / WATER_BLOCK))
  const nearest = kernelNode(
    NearestOfBlock,
    { depth, most: values.shore },
    {
      window: blocks,
      needs: ({ left, top, right, bottom }) => ({
        left: left * WATER_BLOCK,
        top: top * WATER_BLOCK,
        right: right * WATER_BLOCK,
        bottom: bottom * WATER_BLOCK,
      }),
    },
  )
  const far = finite(input.plate())
  const matte = where === 'everywhere' ? undefined : where
  const { lamps, count } = lampsOf(input, values)
  // Anything may be mirrored anywhere
  const whole = [surface, ...levels, far, depth, nearest]
  return kernelNode(
    WaterMirror,
    {
      ...{ surface, level0: levels[0], level1: levels[1], level2: levels[2], level3: levels[3], level4: levels[4] },
      ...{ far, depth, nearest, matte, place, lamps, count, rays: input.size.shrink > 1 ? 1 : RAYS },
      ...{ mirrors: values.mirrors, clear: values.clear, rough: values.rough ** 2 },
    },
    { window, needs: (area, which) => (which === 0 || which >= whole.length ? area : whole[which]!.window) },
  )
}

/** Where the camera and the water are, in pixels of the size worked at. */
function placeOf(camera: Camera, { size }: LayerInput, values: WaterValues): Float32Array {
  const { matrix: m, shiftX, shiftY } = camera
  const { shrink } = size
  const { width: wide, height: tall } = fullSize(size)
  const { across, down, first } = raysOf(camera, wide, tall)
  const dense = pixelsAtOne(camera, wide) / shrink
  const table = new Float32Array(WATER_PLACE / 4)
  table.set(
    [
      ...[...scaled(across, shrink), ...scaled(down, shrink), ...first],
      ...[m[12]!, m[13]!, m[14]!],
      ...[m[0]!, m[1]!, m[2]!],
      ...[m[4]!, m[5]!, m[6]!],
      ...[m[8]!, m[9]!, m[10]!],
      ...[dense, ((1 - shiftX) * wide) / 2 / shrink, (tall / 2 + (shiftY * tall) / 2) / shrink],
      ...[values.level, values.shore, values.thick],
      ...[size.left / shrink, size.top / shrink],
      ...[(size.left + size.frameWidth) / shrink, (size.top + size.frameHeight) / shrink],
    ],
    WATER_RAYS / 4,
  )
  table.set([...values.water.map(part => Math.max(0, part)), 1], WATER_COLOUR / 4)
  return table
}

/** Lights that glitter, as the kernel reads them. */
function lampsOf(input: LayerInput, values: WaterValues): { lamps: Float32Array; count: number } {
  const none = { lamps: new Float32Array(WATER_LAMP / 4), count: 0 }
  if (!(values.glitter > 0)) return none
  const camera = input.camera().matrix
  const from: Vector3 = [camera[12]!, values.level, camera[14]!]
  const lights = input.lights().filter(({ kind }) => values.glitter_of === 'all lights' || kind === 'sun')
  const lamps = lights.flatMap(light => {
    const lamp = lampAt(light, from)
    return lamp ? [[...lamp.middle, lamp.isPlace ? 1 : 0, ...scaled(lamp.power, values.glitter), 0]] : []
  })
  return lamps.length ? { lamps: Float32Array.from(lamps.flat()), count: lamps.length } : none
}
