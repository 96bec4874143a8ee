import { point } from '../formula/point'
import { SumLight } from '../../kernels/records'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { cutOutAt } from '../plan/shaped'
import { boxOfSize, fullSize } from '../plan/size'
import { distancesOf, type PassNodes } from '../render/passnodes'
import { cutTo } from '../plan/picture'
import { LIGHT_PARTS, NO_DEPTH, passOf } from '../render/passes'
import { raster, splat } from '../../kernels/record'
import type { Camera } from '../scene/scene'
import { after, inverted, placesBy } from './card'
import { inPlane } from './inPlane'
import { edgeDepth, frontShare } from './render'
import { FAR, layerKind, type LayerInput, type Shown } from './layer'
import { stuckHandles } from './stuckHandles'
import { stuckPlaces } from './stuckPlaces'
import { planeOfStuck, STUCK_VALUES, type StuckValues } from './stuckValues'
import { nearnessOf, seenInScene, seenSmaller, type InScene } from './wordsPlace'

export const stuck = layerKind({
  id: 'stuck',
  label: 'Stuck drawing',
  help: 'What is in it is drawn on one frame and stays on what it lies on there, however that turns, moves and bends; what passes before it hides it.',
  sentence: [
    'lies on {onto} as on frame {placed}, there from frame {appears} on[, in the light of what it lies on by {lit}]',
    '[through {x} {z}, turned {turn}, ][at a height of {y}, ][before what is within {close}]',
  ].join('\n'),
  values: STUCK_VALUES,
  stands: 'deep',
  holds: 'stuck',
  relative: true,
  handles: stuckHandles,
  plan(input, values) {
    if (Math.round(input.frame) < Math.round(values.appears)) return undefined
    const plane = planeOfStuck(values)
    return plane ? onPlane(input, values, plane) : onThings(input, values)
  },
})

function onThings(input: LayerInput, { placed, lit }: StuckValues): Shown | undefined {
  const { passes, size } = input
  const there = passes && input.passesAt(Math.round(placed))
  const places = there && stuckPlaces(passes, there)
  if (!places) return undefined
  // Two things at a border each cover their own part of it
  const drawn = input.members().colour
  const [first, next] = places.map(place => cutOutAt(drawn, place, boxOfSize(size))) as [Node, Node]
  const flat = kernelNode(SumLight, { sum: first, light: next, gain: 1 }, { window: first.window })
  return {
    colour: lit > 0 ? inLight(flat, passes, lit, input.clean) : flat,
    ...distancesOf(passes),
    edge: () => edgeDepth(passes),
    nearer: (than, ahead) => frontShare(than, passes, ahead),
    stacked: false,
    onRender: true,
    span: { near: 0, far: FAR },
  }
}

/** A plane seen by two cameras is seen by the one as by the other through one projection. */
function onPlane(input: LayerInput, { placed, close }: StuckValues, plane: InScene): Shown | undefined {
  const { size } = input
  const camera = input.camera()
  const near = nearnessOf(plane, camera, fullSize(size))
  const seenBy = (one: Camera): number[] => seenSmaller(seenInScene(plane, one, fullSize(size)), size.shrink)
  const back = inverted(seenBy(camera))
  if (!near || !back) return undefined
  const window = boxOfSize(size)
  const places = placesBy(after(seenBy(input.camera(Math.round(placed))), back), window)
  const shown = inPlane(cutOutAt(input.members().colour, places, window), near, close, size)
  // Beyond the horizon the plane is behind the camera
  return { ...shown, colour: cutTo(shown.colour, shown.nearer(NO_DEPTH / 2)) }
}
const LEAST = 0.01
/**
 * The colour of a drawing in the light of what it lies on: matt light is that of the surface over its own colour (or as it is kept
 * apart from that, over the cover), and what the surface mirrors lies over it.
 */
const InLight = point(
  'InLight',
  {
    direct: raster('colour'),
    indirect: raster('colour'),
    own: raster('colour'),
    mirrored: raster('colour'),
    lit: splat,
  },
  ({ colour, alpha, colours: { direct, indirect, own, mirrored }, values: { lit } }) =>
    colour.map((channel, which) => {
      const light = direct.colour[which].plus(indirect.colour[which]).over(own.colour[which].atLeast(LEAST))
      const shown = channel.times(light).plus(mirrored.colour[which].times(alpha))
      return channel.plus(shown.minus(channel).times(lit))
    }),
)
function inLight(flat: Node, passes: PassNodes, lit: number, clean: number): Node {
  const { planes } = passes.file
  const of = (id: string): Node => passes.light(passOf(id)!.channels, 0, clean)
  const apart = planes.has('raw_direct.R')
  const hasParts = LIGHT_PARTS.some(id => planes.has(`${id}.R`))
  // Of light that is not known apart from its colour nothing can be taken
  if (!apart && !(hasParts && planes.has('albedo.R'))) return flat
  return pointNode(InLight, whole(flat), {
    direct: of(apart ? 'raw_direct' : 'diffuse_direct'),
    indirect: of(apart ? 'raw_indirect' : 'diffuse_indirect'),
    own: apart ? passes.colour(['A'], 1) : of('albedo'),
    mirrored: of('reflection'),
    lit,
  })
}
