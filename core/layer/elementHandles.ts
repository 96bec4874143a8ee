// What the hand takes hold of of an element: its middle (its foot, along the ground), its size, its turn, where its copies
// stand.
import type { FramePlace } from '../matte/handles'
import { onAxis, onLevel, placeAt, project } from '../match/project'
import { subtract, type Vector3 } from '../scene/vector'
import { BEFORE, metresTo, pixelsAtOne } from './card'
import { standsOnGround } from './elementCopies'
import type { ElementValues } from './elementValues'
import type { LayerHandles } from './layer'
import { linesOf, regionOf } from './regionHandles'

export const elementHandles: LayerHandles = (all, { camera, frame, picture }) => {
  const values = all as unknown as ElementValues
  const { width, height } = frame
  const aspect = width / height
  const at: Vector3 = [values.x, values.y, values.z]
  const metres = metresTo(camera, at)
  if (!picture || !(metres > BEFORE)) return undefined
  const seen = (place: Vector3): FramePlace | undefined => {
    const { u, v, metres: far } = project(camera, aspect, place)
    return far > 0.01 ? [u * width, v * height] : undefined
  }
  const middle = seen(at)!
  const onGround = standsOnGround(values)
  // Pixels of the frame to a metre there
  const dense = pixelsAtOne(camera, width) / metres
  const angle = (values.turn * Math.PI) / 180
  const up: FramePlace = [Math.sin(angle), -Math.cos(angle)]
  const tall = values.size * dense
  const wide = (tall * picture.width * picture.pixelAspect) / picture.height
  /** A place so far to the side and up, in halves of its picture. */
  const corner = (side: number, high: number): FramePlace => {
    const rise = onGround ? tall * (high / 2 + 0.5) : (tall * high) / 2
    return [middle[0] - (up[1] * side * wide) / 2 + up[0] * rise, middle[1] + (up[0] * side * wide) / 2 + up[1] * rise]
  }
  const isBox = values.spread === 'in a region'
  const region = isBox || onGround ? regionOf(values, isBox) : { grips: [], edges: [] }
  const end: Vector3 | undefined =
    values.spread === 'along a line' ? [values.end_x, values.end_y, values.end_z] : undefined
  const endSeen = end && seen(end)
  const edges = region.grips.flatMap(({ id, label, place }) => {
    const there = seen(place)
    return there ? [{ id, label, at: there }] : []
  })
  const outline = [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1), corner(-1, -1)]
  return {
    of: 'frame',
    grips: [
      { id: 'middle', label: onGround ? 'foot' : 'middle', at: middle },
      { id: 'size', label: 'size', at: corner(0, 1) },
      { id: 'turn', label: 'turn', at: corner(1, 0) },
      ...(endSeen ? [{ id: 'end', label: 'end of the line', at: endSeen }] : []),
      ...edges,
    ],
    lines: [outline, ...(endSeen ? [[middle, endSeen]] : []), ...linesOf(region.edges, camera, frame)],
    moved: (grip, [x, y]): Record<string, number> => {
      const [u, v] = [x / width, y / height]
      const named = (place: Vector3 | undefined, names: readonly [string, string, string]): Record<string, number> =>
        place ? { [names[0]]: place[0], [names[1]]: place[1], [names[2]]: place[2] } : {}
      switch (grip) {
        case 'middle':
          return named(onGround ? onLevel(camera, aspect, u, v, values.y) : placeAt(camera, aspect, u, v, metres), [
            'x',
            'y',
            'z',
          ])
        case 'end':
          return named(placeAt(camera, aspect, u, v, Math.max(0.01, metresTo(camera, end!))), [
            'end_x',
            'end_y',
            'end_z',
          ])
        case 'size': {
          const high = (x - middle[0]) * up[0] + (y - middle[1]) * up[1]
          return { size: Math.max(0.001, (high / dense) * (onGround ? 1 : 2)) }
        }
        case 'turn': {
          // About its middle, from where its right side is
          const from = onGround ? middle : corner(0, 0)
          return {
            turn: (Math.atan2(y - from[1], x - from[0]) * 180) / Math.PI + (onGround ? turnOfSide(tall, wide) : 0),
          }
        }
        default: {
          const axis = region.grips.find(({ id }) => id === grip)
          const place = axis && onAxis(camera, aspect, u, v, at, axis.along)
          return place ? { [grip]: 2 * Math.hypot(...subtract(place, at)) } : {}
        }
      }
    },
  }
}
/** How far below level the middle of the right side is seen from the foot. */
const turnOfSide = (tall: number, wide: number): number => (Math.atan2(tall, wide) * 180) / Math.PI
