import { grown } from '../engine/box'
import type { Node } from '../plan/node'
import { cutOutAt } from '../plan/shaped'
import { finite } from '../plan/finite'
import { fullSize } from '../plan/size'
import {
  BEFORE,
  cardOf,
  cardWindow,
  carriedBy,
  fewerOf,
  metresTo,
  placesBy,
  shrunk,
  toCard,
  type OnCard,
  type Projection,
} from './card'
import { broughtOnGround } from './brought'
import { figureCasts } from './figureCasts'
import { figureHandles } from './figureHandles'
import { contactOf, FIGURE_VALUES, stanceOf, type FigureValues } from './figureValues'
import { flat, layerKind, type LayerInput } from './layer'

export const figure = layerKind({
  id: 'figure',
  label: 'Figure',
  help: 'A person or thing cut out of a picture, that stands on the ground: it has its size, its place and its distance from that, and throws its shadow.',
  sentence: [
    'stands in the {world} at {x} {z} on ground at {level}, {height} tall, {facing}, leaning {lean}',
    'of its picture the foot is at {foot_across} {foot_down}, the head at {head_down}, the feet at {feet}[, the other at {other_across} {other_down}]',
    '[shadow {shadow}, lit {lit}][, from {sun_heading}, {sun_height} high, {sun_size} wide, {sun_share} of the light][, lights {softer} as large, taken for {round} round, in {shade}]',
    '[wall {wall}][ at {wall_x} {wall_z}, turned {wall_turn}, mirroring {mirror_wall}]',
    '[mirrored in the ground {mirror}, hiding {mirror_hides} of what was seen there, rough by {mirror_rough}, fading over {mirror_fade}]',
  ].join('\n'),
  values: FIGURE_VALUES,
  stands: 'at',
  behindNames: true,
  holds: 'cut-out',
  cutFirst: true,
  standing: {
    metres: ({ x, level, z }, camera) => metresTo(camera, [x, level, z]),
    brought: ({ x, level, z }, camera, to) => broughtOnGround([x, level, z], camera, to),
  },
  handles: figureHandles,
  plan(input, values) {
    const own = input.picture()
    const metres = metresTo(input.camera(), [values.x, values.level, values.z])
    if (!own || metres < BEFORE) return undefined
    const on: OnCard = { node: finite(own.node), picture: own }
    const stood = mapOf(on, input, values)
    const window = cardWindow(stood, on, input.size)
    if (!window) return undefined
    return {
      ...flat(cutOutAt(on.node, placesBy(stood, grown(window, 1)), window), metres, input.size),
      motion: motionOf(on, input, stood, window),
    }
  },
  casts: figureCasts,
})

/** Places of the picture worked at to those of the figure's own. */
function mapOf(on: OnCard, input: LayerInput, values: FigureValues, frame = input.frame): Projection {
  const { size } = input
  const camera = input.camera(frame)
  const card = cardOf(stanceOf(values), contactOf(values), on.picture, camera)
  const { width, height } = fullSize(size)
  const map = toCard(card, camera, width, height)
  return shrunk(map, size.shrink, ...fewerOf(on))
}

/** Where its pixels go by the keys of its layer and those of the camera; undefined where they stay. */
function motionOf(on: OnCard, input: LayerInput, now: Projection, window: Node['window']): (() => Node) | undefined {
  const at = (by: number): Projection =>
    mapOf(on, input, input.valuesAt(input.frame + by) as unknown as FigureValues, input.frame + by)
  return carriedBy(now, at(1), at(-1), window)
}
