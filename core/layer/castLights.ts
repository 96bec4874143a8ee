// What lights a place of the scene, as many places and ways: what a shadow is worked out by.
import type { Light } from '../scene/scene'
import { harmonicsAt, type Surroundings } from '../scene/surroundings'
import { add, cross, dot, normalized, scaled, subtract, type Vector3 } from '../scene/vector'

/** One place of a light, or a way to it. */
export interface LightPlace {
  /** A place, metres, or a unit vector toward it. */
  at: Vector3
  isPlace: boolean
  /** Unit vector of its front; all round without one. */
  front?: Vector3
  /** At a place W/sr (with a front: straight before it); of a way W/m² across it. Linear Rec.709. */
  power: Vector3
  /** How wide it is, metres, or radians of a way. */
  wide: number
}

/** Places of a light by how wide it is seen, radians: smaller ones have shadows that are sharp in most places. */
const OF_LIGHT = [
  { wide: 0.04, places: 16 },
  { wide: 0.15, places: 32 },
  { wide: Infinity, places: 64 },
] as const
/** Of the sky. */
const OF_SKY = 192
const { PI } = Math
/** Turns by the golden angle put points of a disc as evenly as can be (H. Vogel 1979). */
const GOLDEN = PI * (3 - Math.sqrt(5))

const countFor = (wide: number): number => OF_LIGHT.find(step => wide <= step.wide)!.places

/** Points of a disc of radius 1, as many as evenly. */
const discPoints = (count: number): [number, number][] =>
  Array.from({ length: count }, (_, i) => {
    const r = Math.sqrt((i + 0.5) / count)
    return [r * Math.cos(i * GOLDEN), r * Math.sin(i * GOLDEN)]
  })
/** Of a square from -1 to 1 each way: a lattice of Fibonacci's. */
const squarePoints = (count: number): [number, number][] =>
  Array.from({ length: count }, (_, i) => [((i + 0.5) / count) * 2 - 1, ((i * 0.6180339887498949) % 1) * 2 - 1])

/** Two unit vectors across one. */
function across(way: Vector3): [Vector3, Vector3] {
  const first = normalized(cross(Math.abs(way[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0], way))
  return [first, cross(way, first)]
}

/** A flat face that shines. */
interface Face {
  centre: Vector3
  /** From its middle to the middles of two sides, metres. */
  u: Vector3
  v: Vector3
  round: boolean
  front: Vector3
  radiance: Vector3
}
/** What of a light faces a place; undefined for what has no size. */
function faceOf(light: Light, from: Vector3): Face | undefined {
  switch (light.kind) {
    case 'box': {
      const { centre, halfU: u, halfV: v, normal: front, radiance } = light
      return { centre, u, v, round: false, front, radiance }
    }
    case 'disc':
    case 'ball': {
      // A ball is seen as a disc of its size that faces the place
      const { centre, radius, radiance } = light
      const front = light.kind === 'disc' ? light.normal : normalized(subtract(from, centre))
      const [u, v] = across(front)
      return { centre, u: scaled(u, radius), v: scaled(v, radius), round: true, front, radiance }
    }
    case 'tube': {
      const { centre, half, radius, radiance } = light
      const along = normalized(half)
      const toward = subtract(from, centre)
      const front = normalized(subtract(toward, scaled(along, dot(toward, along))))
      return { centre, u: half, v: scaled(cross(along, front), radius), round: false, front, radiance }
    }
    default:
      return undefined
  }
}

/** The places of a light seen from a place; larger: so many times as large, as bright as it is. */
export function placesOf(light: Light, from: Vector3, larger = 1): LightPlace[] {
  if (light.kind === 'sun') return sunPlaces(scaled(light.direction, -1), light.diameter * larger, light.irradiance)
  const face = faceOf(light, from)
  if (face) {
    const cone = light.kind === 'disc' ? light.cone : undefined
    const gain = cone ? coneGain(cone, normalized(subtract(from, face.centre)), face.front) : 1
    return gain > 0 ? placesOnFace(face, from, larger, gain) : []
  }
  const { position, intensity } = light as Extract<Light, { intensity: Vector3 }>
  const gain = light.kind === 'spot' ? coneGain(light, normalized(subtract(from, position)), light.direction) : 1
  if (!(gain > 0)) return []
  // One place, seen at several of each pixel
  const count = countFor(0)
  return Array.from({ length: count }, () => ({
    ...{ at: position, isPlace: true, power: scaled(intensity, gain / count), wide: 0 },
  }))
}

function placesOnFace(
  { centre, u, v, round, front, radiance }: Face,
  from: Vector3,
  larger: number,
  gain: number,
): LightPlace[] {
  const area = (round ? PI : 4) * Math.hypot(...cross(u, v))
  const seen = area * larger ** 2
  const count = countFor(Math.sqrt(seen) / Math.max(1e-6, Math.hypot(...subtract(centre, from))))
  return (round ? discPoints : squarePoints)(count).map(([x, y]) => ({
    at: add(centre, add(scaled(u, x * larger), scaled(v, y * larger))),
    isPlace: true,
    front,
    power: scaled(radiance, (area * gain) / count),
    wide: spacing(seen, count),
  }))
}

/** A sun of such an irradiance, so many degrees wide. */
export function sunPlaces(way: Vector3, degrees: number, irradiance: Vector3): LightPlace[] {
  const [u, v] = across(way)
  const radius = Math.tan((Math.min(120, degrees) * PI) / 360)
  const count = countFor(2 * radius)
  return discPoints(count).map(([x, y]) => ({
    at: normalized(add(way, add(scaled(u, x * radius), scaled(v, y * radius)))),
    isPlace: false,
    power: scaled(irradiance, 1 / count),
    wide: spacing(radius * radius * PI, count),
  }))
}

/** A light as one place or way, seen from a place: its middle, what it sends there (W/sr, or W/m² of a way), how large it is. */
export interface LampThere {
  middle: Vector3
  isPlace: boolean
  power: Vector3
  radius: number
}
/** Undefined where nothing of it shines there. */
export function lampAt(light: Light, from: Vector3): LampThere | undefined {
  const places = placesOf(light, from)
  if (!places.length) return undefined
  const middle = places.reduce<Vector3>((sum, { at }) => add(sum, scaled(at, 1 / places.length)), [0, 0, 0])
  const way = subtract(from, middle)
  const far = Math.hypot(...way)
  const power = places.reduce<Vector3>(
    (sum, { front, power }) => add(sum, scaled(power, front && far > 0 ? Math.max(0, dot(front, way) / far) : 1)),
    [0, 0, 0],
  )
  const radius = Math.max(...places.map(({ at }) => Math.hypot(...subtract(at, middle))))
  return { middle, isPlace: places[0]!.isPlace, power, radius }
}

/** How wide each of so many places is. */
const spacing = (area: number, count: number): number => 1.4 * Math.sqrt(area / count)

/** glTF KHR_lights_punctual, spot falloff. inner and outer in degrees from the axis. */
export function coneGain({ inner, outer }: { inner: number; outer: number }, way: Vector3, axis: Vector3): number {
  const [cosInner, cosOuter] = [inner, outer].map(degrees => Math.cos((degrees * PI) / 180)) as [number, number]
  const share = Math.min(1, Math.max(0, (dot(way, axis) - cosOuter) / Math.max(1e-4, cosInner - cosOuter)))
  return share * share
}

/** What comes from above and around, evenly spread ways; of nothing known it is as bright all round. */
export function skyPlaces(surroundings: Surroundings | undefined): LightPlace[] {
  const { turn, gain, light } = surroundings ?? ALL_ROUND
  const told = [turn, ...gain].join()
  const before = known.get(light)
  if (before?.told === told) return before.places
  const places = skyPlacesOf(surroundings)
  known.set(light, { told, places })
  return places
}
const ALL_ROUND: Surroundings = { light: [], turn: 0, gain: [1, 1, 1] }
/** Of a light from all round the ways that were last worked out: its harmonics take a while. */
const known = new WeakMap<readonly Vector3[], { told: string; places: LightPlace[] }>()

function skyPlacesOf(surroundings: Surroundings | undefined): LightPlace[] {
  const turn = ((surroundings?.turn ?? 0) * PI) / 180
  return Array.from({ length: OF_SKY }, (_, i): LightPlace => {
    // Even in height is even on the ball (Archimedes)
    const y = (i + 0.5) / OF_SKY
    const angle = i * GOLDEN
    const r = Math.sqrt(1 - y * y)
    const [x, z] = [r * Math.cos(angle), r * Math.sin(angle)]
    let radiance: Vector3 = [1, 1, 1]
    if (surroundings) {
      // A positive turn moves the picture to the right, as seen from inside: the way is turned back
      const [c, s] = [Math.cos(turn), Math.sin(turn)]
      const all = harmonicsAt(c * x + s * z, y, -s * x + c * z)
      radiance = [0, 1, 2].map(
        k =>
          surroundings.gain[k]! *
          Math.max(
            0,
            all.reduce((sum, value, j) => sum + value * surroundings.light[j]![k]!, 0),
          ),
      ) as unknown as Vector3
    }
    return { at: [x, y, z], isPlace: false, power: scaled(radiance, (2 * PI) / OF_SKY), wide: spacing(2 * PI, OF_SKY) }
  })
}

/** What such places send onto ground of such a normal at a place, W/m². */
export function irradianceOf(places: readonly LightPlace[], from: Vector3, normal: Vector3 = [0, 1, 0]): Vector3 {
  return places.reduce<Vector3>(
    (sum, { at, isPlace, front, power }) => {
      const way = isPlace ? subtract(at, from) : at
      const far = Math.hypot(...way)
      const leaves = front ? Math.max(0, -dot(front, way) / far) : 1
      return add(sum, scaled(power, (Math.max(0, dot(way, normal) / far) * leaves) / (far * far)))
    },
    [0, 0, 0],
  )
}
