// Lamps of a shot as lights of its scene, at one frame.
import { kelvinToRgb } from '../colour/kelvin'
import { LUMEN_PER_WATT, radianceOf, type FluxShape } from '../scene/flux'
import type { Light } from '../scene/scene'
import { add, cross, normalized, scaled, subtract, type Vector3 } from '../scene/vector'
import { tripleAt, valueAt, type Animatable } from '../time/curve'
import type { LightSettings, ShotDocument } from './document'
import { inOrder, type Unplaced } from './rows'

const RADIANS = Math.PI / 180

/** Unit vector from the ground towards a direction of the sky: azimuth 0 is -Z, 90 is +X. */
export const skyDirection = (azimuth: number, elevation: number): Vector3 => [
  Math.sin(azimuth * RADIANS) * Math.cos(elevation * RADIANS),
  Math.sin(elevation * RADIANS),
  -Math.cos(azimuth * RADIANS) * Math.cos(elevation * RADIANS),
]

const colourOf = ({ kelvin, tint, daylight }: Unplaced<LightSettings>, frame: number): Vector3 =>
  kelvinToRgb(valueAt(kelvin, frame), valueAt(tint ?? 0, frame), daylight)

/** Of all lamps of a shot that are on, each so bright that its brightest channel is 1; linear Rec.709. */
export const lampColours = ({ scene }: ShotDocument, frame: number): { label: string; colour: number[] }[] =>
  inOrder(scene.lights)
    .filter(({ on }) => on)
    .map(light => {
      const colour = colourOf(light, frame)
      const most = Math.max(...colour)
      return { label: light.name, colour: colour.map(channel => Number((channel / most).toFixed(4))) }
    })

/** A light of the shot at a frame; targetOf gives the place that an object's middle has. */
export function lightAt(
  settings: Unplaced<LightSettings>,
  frame: number,
  targetOf: (name: string) => Vector3 | undefined = () => undefined,
): Light {
  const at = (value: Animatable | undefined, other = 0): number => valueAt(value ?? other, frame)
  const towards = skyDirection(at(settings.azimuth), at(settings.elevation))
  const { name } = settings
  const colour = colourOf(settings, frame)
  if (settings.kind === 'sun') {
    const strength =
      settings.unit === 'lumen'
        ? at(settings.amount) / LUMEN_PER_WATT
        : settings.unit === 'watt'
          ? at(settings.amount)
          : 2 ** at(settings.stops)
    return {
      kind: 'sun',
      name,
      direction: scaled(towards, -1),
      diameter: Math.max(0.05, at(settings.diameter)),
      irradiance: scaled(colour, strength),
    }
  }
  const target = (settings.aim !== undefined ? targetOf(settings.aim) : undefined) ?? tripleAt(settings.target, frame)
  const centre = add(target, scaled(towards, Math.max(0.01, at(settings.distance))))
  const normal = normalized(subtract(target, centre))
  const width = Math.max(2e-3, at(settings.width))
  const height = Math.max(2e-3, at(settings.height))
  const radius = width / 2
  const u = normalized(cross(Math.abs(normal[1]) > 0.999 ? [0, 0, 1] : [0, 1, 0], normal))
  const v = cross(normal, u)
  const outer = Math.min(89, at(settings.cone, 40) / 2)
  const cone =
    settings.kind === 'spot'
      ? { outer, inner: outer * (1 - Math.min(0.999, Math.max(0, at(settings.softness, 0.3)))) }
      : undefined
  const shape: FluxShape =
    settings.kind === 'box'
      ? { kind: 'flat', area: width * height }
      : settings.kind === 'ball'
        ? { kind: 'ball', radius }
        : settings.kind === 'tube'
          ? { kind: 'tube', radius, length: height }
          : { kind: 'flat', area: Math.PI * radius ** 2, cone }
  const radiance = scaled(
    colour,
    settings.unit
      ? radianceOf(at(settings.amount) / (settings.unit === 'lumen' ? LUMEN_PER_WATT : 1), shape)
      : 2 ** at(settings.stops),
  )
  if (settings.kind === 'box')
    return { kind: 'box', name, centre, normal, halfU: scaled(u, width / 2), halfV: scaled(v, height / 2), radiance }
  if (settings.kind === 'ball') return { kind: 'ball', name, centre, radius, radiance }
  // A tube lies level, square to where it points
  if (settings.kind === 'tube') return { kind: 'tube', name, centre, half: scaled(u, height / 2), radius, radiance }
  return { kind: 'disc', name, centre, normal, radius, radiance, cone }
}
