// How much light arrives at a place of the scene, at right angles to its way: what lights specks of dust and drops. Asked
// for thousands of places a picture, so that nothing is made anew for each.
import type { Light } from '../scene/scene'
import { cross, scaled, type Vector3 } from '../scene/vector'
import { coneGain } from './castLights'

/** Adds the light that arrives at a place (metres of the world) to three numbers: W/m², linear Rec.709. */
type Arriving = (x: number, y: number, z: number, sum: Float64Array) => void
/** Nearer than this a lamp without size is as bright as there, metres. */
const NEAREST = 0.01

/** Of a light; shades and what stands between are not known. Lamps are taken as seen from afar. */
export function arriving(light: Light): Arriving {
  const { PI } = Math
  switch (light.kind) {
    case 'sun': {
      const [red, green, blue] = light.irradiance
      return (_, __, ___, sum) => {
        sum[0]! += red
        sum[1]! += green
        sum[2]! += blue
      }
    }
    case 'point':
      return faded(light.position, light.intensity, NEAREST, () => 1)
    case 'spot':
      return faded(light.position, light.intensity, NEAREST, way => coneGain(light, way, light.direction))
    case 'ball':
      return faded(light.centre, scaled(light.radiance, PI * light.radius ** 2), light.radius, () => 1)
    case 'disc':
    case 'box': {
      const area = light.kind === 'disc' ? PI * light.radius ** 2 : 4 * Math.hypot(...cross(light.halfU, light.halfV))
      const cone = light.kind === 'disc' ? light.cone : undefined
      const [nx, ny, nz] = light.normal
      return faded(light.centre, scaled(light.radiance, area), Math.sqrt(area / PI), way => {
        const leaves = way[0] * nx + way[1] * ny + way[2] * nz
        return leaves > 0 ? leaves * (cone ? coneGain(cone, way, light.normal) : 1) : 0
      })
    }
    case 'tube': {
      const [hx, hy, hz] = light.half
      const long = Math.hypot(hx, hy, hz)
      return faded(light.centre, scaled(light.radiance, 4 * long * light.radius), light.radius, way => {
        const along = long > 0 ? (way[0] * hx + way[1] * hy + way[2] * hz) / long : 0
        return Math.sqrt(Math.max(0, 1 - along * along))
      })
    }
  }
}

/** By the square of the distance and how much goes that way; within a lamp it is as at its border. */
function faded(
  [px, py, pz]: Vector3,
  [red, green, blue]: Vector3,
  radius: number,
  leaving: (way: Vector3) => number,
): Arriving {
  const least = Math.max(radius, NEAREST) ** 2
  const way: Vector3 = [0, 0, 0]
  return (x, y, z, sum) => {
    const [dx, dy, dz] = [x - px, y - py, z - pz]
    const square = dx * dx + dy * dy + dz * dz
    const over = square > 0 ? 1 / Math.sqrt(square) : 0
    way[0] = dx * over
    way[1] = dy * over
    way[2] = dz * over
    const gain = leaving(way) / Math.max(square, least)
    sum[0]! += red * gain
    sum[1]! += green * gain
    sum[2]! += blue * gain
  }
}
