// Places of the world brought to another distance, seen where they were or along the ground.
import type { Camera } from '../scene/scene'
import type { Vector3 } from '../scene/vector'
import { metresTo } from './card'

/** On along the ground, away from the foot of the camera or toward it; undefined where that is not to be had. */
export function broughtOnGround(
  [x, level, z]: Vector3,
  camera: Camera,
  metres: number,
): { x: number; z: number } | undefined {
  const m = camera.matrix
  const [ex, ez] = [m[12]!, m[14]!]
  const [dx, dz] = [x - ex, z - ez]
  const slope = -(dx * m[8]! + dz * m[10]!)
  const rest = metresTo(camera, [ex, level, ez])
  if (!(slope > 1e-6)) return undefined
  const times = (metres - rest) / slope
  return times > 0 ? { x: ex + dx * times, z: ez + dz * times } : undefined
}

/** On along the way that the camera sees it. */
export function broughtAlong(
  at: Vector3,
  camera: Camera,
  metres: number,
): { x: number; y: number; z: number } | undefined {
  const now = metresTo(camera, at)
  if (!(now > 1e-6)) return undefined
  const m = camera.matrix
  const [x, y, z] = [0, 1, 2].map(i => m[12 + i]! + ((at[i]! - m[12 + i]!) * metres) / now) as Vector3
  return { x, y, z }
}
