// What the hand takes hold of of specks: the box that they are in, and where they are sharp.
import { onAxis, placeAt, project } from '../match/project'
import { subtract, type Vector3 } from '../scene/vector'
import { BEFORE, metresTo } from './card'
import { linesOf, regionOf } from './regionHandles'
import type { LayerHandles } from './layer'
import type { SpecksValues } from './specksValues'

export const specksHandles: LayerHandles = (all, { camera, frame: { width, height } }) => {
  const values = all as unknown as SpecksValues
  if (values.where !== 'in a box') return undefined
  const aspect = width / height
  const at: Vector3 = [values.x, values.y, values.z]
  const metres = metresTo(camera, at)
  if (!(metres > BEFORE)) return undefined
  const region = regionOf(values, true)
  return {
    of: 'frame',
    grips: [{ id: 'middle', label: 'middle of the box', place: at }, ...region.grips].flatMap(
      ({ id, label, place }) => {
        const seen = project(camera, aspect, place)
        return seen.metres > 0.01 ? [{ id, label, at: [seen.u * width, seen.v * height] as const }] : []
      },
    ),
    lines: linesOf(region.edges, camera, { width, height }),
    moved: (grip, [x, y]): Record<string, number> => {
      const [u, v] = [x / width, y / height]
      if (grip === 'middle') {
        const place = placeAt(camera, aspect, u, v, metres)
        return { x: place[0], y: place[1], z: place[2] }
      }
      const axis = region.grips.find(({ id }) => id === grip)
      const place = axis && onAxis(camera, aspect, u, v, at, axis.along)
      return place ? { [grip]: 2 * Math.hypot(...subtract(place, at)) } : {}
    },
  }
}
