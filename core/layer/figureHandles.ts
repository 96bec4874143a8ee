// What the hand takes hold of of a figure: its foot, along the ground; its head, for its height; its other foot.
import type { FramePlace } from '../matte/handles'
import { heightOver } from '../match/ground'
import { onLevel, project } from '../match/project'
import type { Vector3 } from '../scene/vector'
import { cardOf, inWorld, toCard } from './card'
import { contactOf, stanceOf, type FigureValues } from './figureValues'
import type { LayerHandles } from './layer'

export const figureHandles: LayerHandles = (all, { camera, frame, picture }) => {
  const values = all as unknown as FigureValues
  if (!picture) return undefined
  const { width, height } = frame
  const aspect = width / height
  const card = cardOf(stanceOf(values), contactOf(values), picture, camera)
  const seen = (place: Vector3): FramePlace | undefined => {
    const { u, v, metres } = project(camera, aspect, place)
    return metres > 0 ? [u * width, v * height] : undefined
  }
  const { foot } = card
  const [low, high] = [seen(foot), seen([foot[0], foot[1] + values.height, foot[2]])]
  if (!low || !high) return undefined
  const other =
    values.feet === 'two places'
      ? seen(inWorld(card, values.other_across * picture.width, values.other_down * picture.height))
      : undefined
  return {
    of: 'frame',
    grips: [
      { id: 'foot', label: 'foot', at: low },
      { id: 'head', label: 'height', at: high },
      ...(other ? [{ id: 'other', label: 'other foot', at: other }] : []),
    ],
    lines: [[low, high]],
    moved: (grip, [x, y]): Record<string, number> => {
      const [u, v] = [x / width, y / height]
      if (grip === 'foot') {
        const place = onLevel(camera, aspect, u, v, values.level)
        return place ? { x: place[0], z: place[2] } : {}
      }
      if (grip === 'head') return { height: heightOver(camera, aspect, foot, { u, v }) }
      const map = toCard(card, camera, width, height)
      const [px, py, w] = [0, 3, 6].map(row => map[row]! * x + map[row + 1]! * y + map[row + 2]!) as [
        number,
        number,
        number,
      ]
      return w > 0 ? { other_across: px / w / picture.width, other_down: py / w / picture.height } : {}
    },
  }
}
