// What the hand takes hold of of a stuck drawing: a place of the wall that it lies on.
import { project } from '../match/project'
import type { LayerHandles } from './layer'
import { placedInPlane } from './wordsHandles'
import { planeOfStuck, type StuckValues } from './stuckValues'

export const stuckHandles: LayerHandles = (all, { camera, frame }) => {
  const values = all as unknown as StuckValues
  const plane = planeOfStuck(values)
  if (plane?.put !== 'upright') return undefined
  const aspect = frame.width / frame.height
  const { u, v, metres } = project(camera, aspect, [values.x, 0, values.z])
  return {
    of: 'frame',
    grips: metres > 0 ? [{ id: 'place', label: 'foot of the wall', at: [u * frame.width, v * frame.height] }] : [],
    lines: [],
    moved: (_, [x, y]): Record<string, number> => {
      // Its foot goes along the ground
      const ground = { ...plane, put: 'on the ground' as const }
      const { x: across, z } = placedInPlane(ground, camera, [x / frame.width, y / frame.height], aspect)
      return across === undefined || z === undefined ? {} : { x: across, z }
    },
  }
}
