import { grown } from '../engine/box'
import { MotionCarried } from '../../kernels/records'
import { kernelNode, type Node } from '../plan/node'
import { resampledAt } from '../plan/shaped'
import { finite } from '../plan/finite'
import { cardOf, cardWindow, fewerOf, metresTo, placesBy, shrunk, toCard, type OnCard, type Projection } from './card'
import { figureCasts } from './figureCasts'
import { figureHandles } from './figureHandles'
import { contactOf, FIGURE_VALUES, stanceOf, type FigureValues } from './figureValues'
import { flat, layerKind, type LayerInput } from './layer'

/** What is nearer to the camera than this, metres, is not before it. */
const BEFORE = 0.01

export const figure = layerKind({
  id: 'figure',
  label: 'Figure',
  help: 'A person or thing cut out of a picture, that stands on the ground: it has its size, its place and its distance from that, and throws its shadow.',
  sentence: [
    'stands at {x} {z} on ground at {level}, {height} tall, {facing}, leaning {lean}',
    'of its picture the foot is at {foot_across} {foot_down}, the head at {head_down}, the feet at {feet}[, the other at {other_across} {other_down}]',
    'shadow {shadow}, lit {lit}[, from {sun_heading}, {sun_height} high, {sun_size} wide, {sun_share} of the light], lights {softer} as large, taken for {round} round, in {shade}',
    'wall {wall}[ at {wall_x} {wall_z}, turned {wall_turn}, mirroring {mirror_wall}]',
    'mirrored in the ground {mirror}, hiding {mirror_hides} of what was seen there, rough by {mirror_rough}, fading over {mirror_fade}',
  ].join('\n'),
  values: FIGURE_VALUES,
  stands: 'at',
  holds: 'cut-out',
  cutFirst: true,
  standing: {
    metres: ({ x, level, z }, camera) => metresTo(camera, [x, level, z]),
    brought: ({ x, level, z }, camera, to) => {
      // On along the ground, away from the foot of the camera or toward it
      const m = camera.matrix
      const [ex, ez] = [m[12]!, m[14]!]
      const [dx, dz] = [x - ex, z - ez]
      const slope = -(dx * m[8]! + dz * m[10]!)
      const rest = metresTo(camera, [ex, level, ez])
      if (!(slope > 1e-6)) return undefined
      const times = (to - rest) / slope
      return times > 0 ? { x: ex + dx * times, z: ez + dz * times } : undefined
    },
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
      ...flat(resampledAt(on.node, placesBy(stood, grown(window, 1)), 'sharp', window, false), metres, input.size),
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
  const map = toCard(card, camera, size.frameWidth + 2 * size.left, size.frameHeight + 2 * size.top)
  return shrunk(map, size.shrink, ...fewerOf(on))
}

/** Where its pixels go by the keys of its layer and those of the camera; undefined where they stay. */
function motionOf(on: OnCard, input: LayerInput, now: Projection, window: Node['window']): (() => Node) | undefined {
  const at = (by: number): Projection =>
    mapOf(on, input, input.valuesAt(input.frame + by) as unknown as FigureValues, input.frame + by)
  const [next, before] = [at(1), at(-1)]
  if ([next, before].every(other => other.every((value, i) => value === now[i]))) return undefined
  const room = grown(window, 1)
  return () =>
    kernelNode(
      MotionCarried,
      { map: placesBy(now, room), next: placesBy(next, room), before: placesBy(before, room) },
      { window, needs: area => grown(area, 1) },
    )
}
