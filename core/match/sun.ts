// Where the sun stands: from a thing in the plate and the tip of its shadow, or from place, date and hour.
import { Equator, Horizon, Observer, Body } from 'astronomy-engine'
import { BadInput } from '../formats/errors'
import type { Camera } from '../scene/scene'
import { onLevel, rayThrough } from './project'

type Place = { u: number; v: number }
export interface SunDirection {
  /** Degrees: 0 ahead of the world (-Z), 90 its right (+X). */
  azimuth: number
  elevation: number
  /** Metres of the thing. */
  height: number
}

/**
 * From the foot and the top of something upright and the tip of its shadow on the ground. Throws BadInput where they
 * cannot be that.
 */
export function sunFromShadow(camera: Camera, aspect: number, foot: Place, top: Place, tip: Place): SunDirection {
  const f = onLevel(camera, aspect, foot.u, foot.v, 0)
  const s = onLevel(camera, aspect, tip.u, tip.v, 0)
  if (!f) throw new BadInput('The foot does not lie on the ground: it is on or above the horizon.')
  if (!s) throw new BadInput('The tip of the shadow does not lie on the ground: it is on or above the horizon.')
  const d = rayThrough(camera, aspect, top.u, top.v)
  const m = camera.matrix
  // The ray of the top, where it passes over the foot
  const fx = f[0] - m[12]!
  const fz = f[2] - m[14]!
  const far = Math.hypot(fx, fz)
  const along = (d[0] * fx + d[2] * fz) / far
  const height = along > 1e-6 ? m[13]! + (d[1] / along) * far : 0
  if (!(height > 0.01)) throw new BadInput('The top must stand above the foot.')
  const dx = f[0] - s[0]
  const dz = f[2] - s[2]
  const long = Math.hypot(dx, dz)
  if (long < 1e-4)
    throw new BadInput(
      'The tip of the shadow lies at the foot: the sun would stand straight above. Click where the shadow of the top falls.',
    )
  return {
    azimuth: (Math.atan2(dx, -dz) * 180) / Math.PI,
    elevation: (Math.atan2(height, long) * 180) / Math.PI,
    height,
  }
}

/**
 * Azimuth from north over east and height above the horizon, degrees, refraction of the air included. latitude,
 * longitude in degrees (north, east positive).
 */
export function sunInSky(
  latitude: number,
  longitude: number,
  when: Date,
  metres = 0,
): { azimuth: number; elevation: number } {
  if (!(Math.abs(latitude) <= 90) || !(Math.abs(longitude) <= 180))
    throw new BadInput('Latitude runs from -90 to 90 degrees, longitude from -180 to 180.')
  if (!Number.isFinite(when.getTime())) throw new BadInput('That date does not exist.')
  const observer = new Observer(latitude, longitude, metres)
  const equatorial = Equator(Body.Sun, when, observer, true, true)
  const { azimuth, altitude } = Horizon(when, observer, equatorial.ra, equatorial.dec, 'normal')
  return { azimuth, elevation: altitude }
}
