// What the hand takes hold of of standing water: the line on the picture where it ends, by its distance or by its level.
import type { FramePlace } from '../matte/handles'
import { onLevel, project, rayThrough } from '../match/project'
import type { Vector3 } from '../scene/vector'
import { metresTo } from './card'
import type { LayerHandles } from './layer'
import type { WaterValues } from './waterValues'

/** Where on the line its grips are, of the frame's width. */
const GRIPS = { shore: 0.35, level: 0.65 }

export const waterHandles: LayerHandles = (all, { camera, frame: { width, height } }) => {
  const { level, shore } = all as unknown as WaterValues
  const aspect = width / height
  const m = camera.matrix
  if (!(m[13]! > level)) return undefined
  /** Where the end of the water is seen in a column of the frame, 0..1. */
  const endAt = (u: number): FramePlace | undefined => {
    // Along the column to where the level is so far away: steps of halves
    let [above, below] = [-8, 8]
    const farAt = (v: number): number => {
      const place = rayThrough(camera, aspect, u, v)
      if (place[1] >= 0) return Infinity
      const times = (level - m[13]!) / place[1]
      return metresTo(camera, [m[12]! + place[0] * times, level, m[14]! + place[2] * times])
    }
    if (!(farAt(below) < shore)) return undefined
    for (let i = 0; i < 40; i++) {
      const middle = (above + below) / 2
      if (farAt(middle) > shore) above = middle
      else below = middle
    }
    return [u * width, below * height]
  }
  const line = Array.from({ length: 17 }, (_, i) => endAt(i / 16)).filter(place => !!place)
  const grips = [
    { id: 'shore', label: 'shore, by its distance', at: endAt(GRIPS.shore) },
    { id: 'level', label: 'shore, by the level', at: endAt(GRIPS.level) },
  ]
  return {
    of: 'frame',
    grips: grips.flatMap(({ at, ...grip }) => (at ? [{ ...grip, at }] : [])),
    lines: [line],
    moved: (grip, [x, y]): Record<string, number> => {
      const [u, v] = [x / width, y / height]
      if (grip === 'shore') {
        const place = onLevel(camera, aspect, u, v, level)
        const metres = place ? metresTo(camera, place) : 0
        return metres > 0 ? { shore: Math.max(0.1, metres) } : {}
      }
      const d = rayThrough(camera, aspect, u, v)
      const along = shore / -(d[0] * m[8]! + d[1] * m[9]! + d[2] * m[10]!)
      const place: Vector3 = [m[12]! + d[0] * along, m[13]! + d[1] * along, m[14]! + d[2] * along]
      // No higher than the camera
      return project(camera, aspect, place).metres > 0 ? { level: Math.min(place[1], m[13]! - 0.01) } : {}
    },
  }
}
