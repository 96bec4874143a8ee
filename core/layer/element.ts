import { around, grown, type Box } from '../engine/box'
import { finite } from '../plan/finite'
import { kernelNode, type Node } from '../plan/node'
import { reduced } from '../plan/reduced'
import { fullSize } from '../plan/size'
import { cutOutAt, resampledAt } from '../plan/shaped'
import { StillPacked } from '../render/openpasses'
import { NO_DEPTH } from '../render/passes'
import { Clear, ElementPart, Fill } from '../../kernels/records'
import {
  BEFORE,
  cardWindow,
  carriedBy,
  fewerOf,
  metresTo,
  pixelsAtOne,
  placesBy,
  shrunk,
  type OnCard,
  type Projection,
} from './card'
import { copiesOf, copyMap, planeAt, standsOnGround, type Copy } from './elementCopies'
import { elementHandles } from './elementHandles'
import { shineOf, type Shine } from './elementLight'
import { broughtAlong, broughtOnGround } from './brought'
import { ELEMENT_VALUES, type ElementValues } from './elementValues'
import { layerKind, type LayerInput, type Shown } from './layer'
import { laidOver } from './laid'
import { thickBetween } from './thick'

/** A thing without thickness is cut within so many metres. */
const THINNEST = 1e-6

export const element = layerKind({
  id: 'element',
  label: 'Element',
  help: 'A clip of smoke, fire, spray, dust or birds that stands in the scene and faces the camera; many copies of it, no two alike.',
  sentence: [
    'stands at {x} {y} {z}, {size} tall, {facing}, turned {turn}, {thickness} thick',
    'taken {taken}[: nothing at {black}, hides {hides}], cut edges hidden over {edges}, dissolved {dissolved} in patches of {patch}',
    '{copies} of it, {spread}[ to {end_x} {end_y} {end_z}][, {wide} wide][, {tall} tall][, {deep} deep], seed {seed}',
    'each turned up to {turns}, larger or smaller by {sizes}, {mirrored} of them mirrored, {offsets} ahead or behind, faster or slower by {speeds}',
    'its clip at {speed} and {offset} ahead; lit {lit} by {by}, tinted {tint}, flickering {flicker} about every {flicker_frames}',
  ].join('\n'),
  values: ELEMENT_VALUES,
  stands: 'amid',
  holds: 'element',
  thickness: 'thickness',
  standing: {
    metres: ({ x, y, z }, camera) => metresTo(camera, [x, y, z]),
    brought: (values, camera, to) =>
      standsOnGround(values)
        ? broughtOnGround([values.x, values.y, values.z], camera, to)
        : broughtAlong([values.x, values.y, values.z], camera, to),
  },
  handles: elementHandles,
  plan(input, values) {
    const camera = input.camera()
    const { size } = input
    const frame = fullSize(size)
    const copies = copiesOf(values, input.frame, input.begins)
    const far = copies
      .map((copy, index) => ({ copy, index, metres: metresTo(camera, copy.at) }))
      .filter(({ metres }) => metres > BEFORE)
      .sort((a, b) => b.metres - a.metres)
    const pictures = picturesOf(
      input,
      far.map(({ copy }) => copy),
    )
    const parts = far.flatMap(({ copy, index, metres }, i) => {
      const picture = pictures[i]
      if (!picture) return []
      const on = smaller({ node: finite(picture.node), picture }, copy, metres, camera, frame, size.shrink)
      const map = shrunk(mapOf(copy, values, on, camera, frame), size.shrink, ...on.fewer)
      const window = cardWindow(map, on, size)
      return window ? [{ copy, index, metres, on, map, window }] : []
    })
    if (!parts.length) return undefined
    const window = parts.map(part => part.window).reduce(around)
    const nothing: Shown = {
      ...standing(window, Infinity, -Infinity),
      colour: kernelNode(Clear, {}, { window }),
      nearer: () => kernelNode(Fill, { value: 1 }, { window }),
    }
    const shineAt = shineOf(input, values)
    const all = parts.reduce((below, { copy, index, metres, on, map, window: own }) => {
      const colour = partOf(copy, values, shineAt(copy.at), { metres, on, map, window: own, camera, frame, size })
      return laidOver(
        below,
        {
          ...standing(window, metres, metres),
          colour,
          ...thick(colour, metres, values.thickness, window),
          motion: motionOf(index, on, map, input, values, own),
        },
        BETWEEN,
        1,
      )
    }, nothing)
    return { ...all, stacked: true, thick: true }
  },
})
/** Copies lie over each other, whatever all of them are laid on. */
const BETWEEN = 'over'

interface Place {
  metres: number
  on: Reduced
  map: Projection
  window: Box
  camera: ReturnType<LayerInput['camera']>
  frame: { width: number; height: number }
  size: LayerInput['size']
}

/** Frames that are read at a time: each is large. */
const AT_ONCE = 4
/** The pictures that copies show; those that are not at hand are asked for all at once. Throws StillPacked. */
function picturesOf(input: LayerInput, copies: readonly Copy[]): ReturnType<LayerInput['picture']>[] {
  const missing: StillPacked[] = []
  const found = copies.map(({ plays }) => {
    try {
      return input.picture(input.begins + plays)
    } catch (error) {
      if (!(error instanceof StillPacked)) throw error
      missing.push(error)
      return undefined
    }
  })
  if (missing.length)
    throw new StillPacked(async () => {
      for (let i = 0; i < missing.length; i += AT_ONCE)
        await Promise.all(missing.slice(i, i + AT_ONCE).map(one => one.unpack()))
    })
  return found
}

/**
 * A picture halved as often as it is made smaller anyway, which is the same for all copies and while they are moved. While
 * one works at a smaller size no more than that is taken of it.
 */
function smaller(
  { node, picture }: OnCard,
  copy: Copy,
  metres: number,
  camera: Place['camera'],
  frame: Place['frame'],
  shrink: number,
): Reduced {
  const [x, y] = fewerOf({ node, picture })
  const dense = (picture.height / copy.size) * (metres / pixelsAtOne(camera, frame.width)) * shrink * y
  const halvings = Math.log2(dense)
  const times = Math.min(MOST_HALVINGS, Math.max(0, shrink > 1 ? Math.ceil(halvings - SPARED) : Math.floor(halvings)))
  const by = 2 ** -times
  return { node: reduced(node, times), picture, fewer: [x * by, y * by] }
}
/** A picture with fewer pixels: so many of one that it would have whole, across and down. */
interface Reduced extends OnCard {
  fewer: readonly [x: number, y: number]
}
const MOST_HALVINGS = 10
/** So much of a halving is spared where one works at a smaller size: then the sharp filter does it alone. */
const SPARED = 0.3

const mapOf = (
  copy: Copy,
  values: ElementValues,
  { picture }: OnCard,
  camera: Place['camera'],
  frame: Place['frame'],
): Projection => copyMap(copy, standsOnGround(values), picture, camera, frame)

/** What a copy shows: its picture brought there, with cover, dissolved, lit. */
function partOf(
  copy: Copy,
  values: ElementValues,
  { ambient, lamps, count }: Shine,
  { metres, on, map, window, camera, frame, size }: Place,
): Node {
  const places = placesBy(map, grown(window, 1))
  const [wide, tall] = [on.picture.width * on.fewer[0], on.picture.height * on.fewer[1]]
  const aspect = (on.picture.width / on.picture.height) * on.picture.pixelAspect
  const { first, right, low } = planeAt(camera, metres, frame)
  const pixel = (way: readonly number[]): [number, number, number, number] => [
    way[0]! * size.shrink,
    way[1]! * size.shrink,
    way[2]! * size.shrink,
    0,
  ]
  const gain = values.tint.map(part => Math.max(0, part) * copy.bright)
  const lit = lamps.map((value, i) => (i % 8 > 3 && i % 8 < 7 ? value * gain[(i % 8) - 4]! : value))
  return kernelNode(
    ElementPart,
    {
      source:
        size.shrink > 1 ? resampledAt(on.node, places, 'straight', window, false) : cutOutAt(on.node, places, window),
      place: places,
      ambient: [ambient[0] * gain[0]!, ambient[1] * gain[1]!, ambient[2] * gain[2]!, 1],
      first: [...first, 0],
      right: pixel(right),
      low: pixel(low),
      lights: lit,
      count,
      across: 1 / wide,
      down: 1 / tall,
      aspect,
      black: values.taken === 'on black' ? 1 : 0,
      level: values.black,
      hides: values.hides,
      edges: values.edges,
      gone: values.dissolved,
      patches: 1 / values.patch,
      seed: copy.seed,
    },
    { window },
  )
}

/** What stands at one distance. */
function standing(window: Box, near: number, far: number): Omit<Shown, 'colour' | 'nearer'> {
  const depth = (): Node => kernelNode(Fill, { value: Math.abs(near) < Infinity ? near : NO_DEPTH }, { window })
  return { depth, byDepth: say => say(depth()), edge: depth, stacked: true, span: { near, far } }
}

/** How it is cut in depth. */
function thick(colour: Node, metres: number, thickness: number, window: Box): ReturnType<typeof thickBetween> {
  const deep = Math.max(thickness, metres * THINNEST)
  // Nothing of it is behind the camera
  return thickBetween(colour, Math.max(0, metres - deep / 2), metres + deep / 2, window)
}

/** Where the pixels of a copy go by its keys and those of the camera; undefined where they stay. */
function motionOf(
  index: number,
  on: Reduced,
  now: Projection,
  input: LayerInput,
  values: ElementValues,
  window: Box,
): (() => Node) | undefined {
  const { size, frame, begins } = input
  const full = fullSize(size)
  const at = (by: number): Projection | undefined => {
    const camera = input.camera(frame + by)
    const there = input.valuesAt(frame + by) as unknown as ElementValues
    const copy = copiesOf(there, frame + by, begins)[index]
    return copy && metresTo(camera, copy.at) > BEFORE
      ? shrunk(mapOf(copy, values, on, camera, full), size.shrink, ...on.fewer)
      : undefined
  }
  return carriedBy(now, at(1) ?? now, at(-1) ?? now, window)
}
