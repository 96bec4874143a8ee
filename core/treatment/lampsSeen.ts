// What a camera sees of the lamps of a scene: where, how large, how bright, how far away.
import { project } from '../match/project'
import { coneRamp } from '../scene/flux'
import type { Camera, Light } from '../scene/scene'
import { cross, dot, length, normalized, scaled, subtract, transformPoint, type Vector3 } from '../scene/vector'
import { NO_DEPTH } from '../plan/picture'

/** A lamp as an even disc of the picture. */
export interface SeenLamp {
  /** Its middle, and its radius, in pixels. */
  x: number
  y: number
  radius: number
  /** Along the view axis; of what is no nearer than all else, NO_DEPTH. */
  metres: number
  /** Radiance, W/(m2 sr), linear Rec.709. */
  light: Vector3
}
/** A smaller lamp is drawn so large, with the same light in all. */
const LEAST_RADIUS = 1

/** What it gives off toward a place: seen under so many steradians, so bright. */
interface Given {
  place: Vector3
  angle: number
  light: Vector3
}

const inCone = (cosine: number, cone: { inner: number; outer: number }): number => {
  const cos = (degrees: number): number => Math.cos((degrees * Math.PI) / 180)
  return coneRamp(cosine, cos(cone.inner), cos(cone.outer))
}

function givenTo(eye: Vector3, light: Light): Given {
  if (light.kind === 'sun') {
    const half = (light.diameter * Math.PI) / 360
    const angle = 2 * Math.PI * (1 - Math.cos(half))
    return {
      // As far as nothing else
      place: subtract(eye, scaled(light.direction, 1e6)),
      angle,
      light: scaled(light.irradiance, 1 / angle),
    }
  }
  const place = light.kind === 'point' || light.kind === 'spot' ? light.position : light.centre
  const way = subtract(eye, place)
  const metres = Math.max(1e-3, length(way))
  const toEye = normalized(way)
  const square = metres * metres
  if (light.kind === 'point' || light.kind === 'spot') {
    // It has no size: as of one steradian, which is made as small as it is drawn
    const share = light.kind === 'spot' ? inCone(dot(toEye, light.direction), light) : 1
    return { place, angle: 1 / square, light: scaled(light.intensity, share) }
  }
  if (light.kind === 'ball') {
    const angle = 2 * Math.PI * (1 - Math.sqrt(1 - Math.min(1, light.radius / metres) ** 2))
    return { place, angle, light: light.radiance }
  }
  if (light.kind === 'tube') {
    const wide = 2 * light.radius * 2 * length(light.half)
    return { place, angle: (wide * length(cross(normalized(light.half), toEye))) / square, light: light.radiance }
  }
  const cosine = Math.max(0, dot(light.normal, toEye))
  const area = light.kind === 'disc' ? Math.PI * light.radius ** 2 : 4 * length(cross(light.halfU, light.halfV))
  const share = light.kind === 'disc' && light.cone ? inCone(cosine, light.cone) : 1
  return { place, angle: (area * cosine) / square, light: scaled(light.radiance, share) }
}

/** Of the lamps before the camera, those that shine toward it. width, height: pixels of the frame that it sees. */
export function lampsSeen(lights: readonly Light[], camera: Camera, width: number, height: number): SeenLamp[] {
  const eye = transformPoint(camera.matrix, [0, 0, 0])
  const step = camera.sensorWidth / camera.focalLength / width
  return lights.flatMap(light => {
    const { place, angle, light: given } = givenTo(eye, light)
    const { u, v, metres } = project(camera, width / height, place)
    const isPoint = light.kind === 'point' || light.kind === 'spot'
    if (!(metres > 0) || !(angle > 0) || !given.some(channel => channel > 0)) return []
    // A steradian off the axis covers more of the picture: by the cube of the cosine
    const cosine = metres / Math.max(metres, length(subtract(place, eye)))
    const area = angle / (step * step * cosine ** 3)
    const radius = isPoint ? LEAST_RADIUS : Math.max(LEAST_RADIUS, Math.sqrt(area / Math.PI))
    return [
      {
        x: u * width,
        y: v * height,
        radius,
        metres: light.kind === 'sun' ? NO_DEPTH : metres,
        light: scaled(given, area / (Math.PI * radius * radius)),
      },
    ]
  })
}
