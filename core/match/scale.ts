// The height of the camera above the ground from something in the picture whose size is known. Everything seen of the
// ground grows with that height.
import { BadInput } from '../formats/errors'
import type { Camera } from '../scene/scene'
import type { Vector3 } from '../scene/vector'
import { project, rayThrough } from './project'

type Place = { u: number; v: number }

/** Where the ray meets the ground if the camera stood one metre above it, from the foot of the camera. */
function onGround(camera: Camera, aspect: number, { u, v }: Place): Vector3 {
  const d = rayThrough(camera, aspect, u, v)
  if (d[1] > -1e-6) throw new BadInput('That place lies on or above the horizon: it is not on the ground.')
  return [-d[0] / d[1], 0, -d[2] / d[1]]
}

/**
 * Height in metres at which two places of the ground are so far apart. Throws BadInput above the horizon or for no
 * distance.
 */
export function heightFromLength(camera: Camera, aspect: number, a: Place, b: Place, metres: number): number {
  const p = onGround(camera, aspect, a)
  const q = onGround(camera, aspect, b)
  const apart = Math.hypot(p[0] - q[0], p[2] - q[2])
  if (!(apart > 1e-6) || !(metres > 0))
    throw new BadInput('Two different places of the ground are needed, and a length above 0.')
  return metres / apart
}

/**
 * Height in metres at which something upright, seen from foot to top, is so tall. Throws BadInput when the foot is not
 * on the ground.
 */
export function heightFromUpright(camera: Camera, aspect: number, foot: Place, top: Place, metres: number): number {
  const p = onGround(camera, aspect, foot)
  const d = rayThrough(camera, aspect, top.u, top.v)
  // The ray of the top passes nearest to the upright over the foot: level distances agree there
  const far = Math.hypot(p[0], p[2])
  const along = (d[0] * p[0] + d[2] * p[2]) / far
  if (!(along > 1e-6)) throw new BadInput('The top is not above that foot.')
  const tall = 1 + (d[1] / along) * far
  if (!(tall > 1e-4) || !(metres > 0)) throw new BadInput('The top must lie above the foot, and the height above 0.')
  return metres / tall
}

/** A pole on the ground as a line of the picture from foot to head; undefined behind the camera. */
export function poleLine(
  camera: Camera,
  aspect: number,
  x: number,
  z: number,
  metres: number,
): { foot: Place; head: Place } | undefined {
  const foot = project(camera, aspect, [x, 0, z])
  const head = project(camera, aspect, [x, metres, z])
  return foot.metres > 0.05 && head.metres > 0.05 ? { foot, head } : undefined
}
