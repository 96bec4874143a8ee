// What shines on a figure, as the kernels of its shadow read it.
import type { Box } from '../engine/box'
import { add, normalized, scaled, subtract, type Vector3 } from '../scene/vector'
import {
  CARD_LIGHT_MIDDLE,
  CARD_LIGHTS,
  CARD_OTHER,
  CARD_RAYS,
  CARD_REACH,
  CARD_RISE,
  CARD_TOWARD,
  CARD_UP,
  CARD_WALL,
} from '../../kernels/assembly/layout'
import type { Card } from './card'
import { irradianceOf, placesOf, skyPlaces, sunPlaces, type LightPlace } from './castLights'
import { reachOf, SKY_REACHES, wallOf, windowOf, type Standing } from './figureStanding'
import type { LayerInput } from './layer'

/** Shadows are followed so many heights far. */
const FARTHEST = 60

/** What shines on a figure: what throws its shadow, and by what all that falls on the ground is counted. */
export interface Shining {
  /** Places of lamps and suns, one list a light, and of the sky, that throw its shadow. */
  lamps: LightPlace[][]
  sky: LightPlace[]
  /** A few places of every lamp and sun. */
  counted: LightPlace[]
  /** What else falls on the ground, and on the wall. */
  other: Vector3
  otherOnWall: Vector3
}
export function shiningOn(input: LayerInput, { card: { foot }, values, camera }: Standing): Shining {
  const lights = input.lights()
  const surroundings = input.surroundings()
  const all = lights.map(light => ({ name: light.name, places: placesOf(light, foot, values.softer) }))
  const sky = surroundings || !lights.length ? skyPlaces(surroundings) : []
  const wall = values.wall === 'none' ? undefined : wallOf(values, camera).normal
  const falling = (places: readonly LightPlace[], onWall: boolean): Vector3 =>
    irradianceOf(places, foot, onWall && wall ? [wall[0], 0, wall[1]] : [0, 1, 0])
  if (values.lit === 'by hand') {
    // A sun that gives such a share of all that falls there
    const whole = falling([...all.flatMap(({ places }) => places), ...sky], false)
    const [heading, height] = [values.sun_heading, values.sun_height].map(degrees => (degrees * Math.PI) / 180) as [
      number,
      number,
    ]
    const way: Vector3 = [Math.sin(heading) * Math.cos(height), Math.sin(height), -Math.cos(heading) * Math.cos(height)]
    const sun = sunPlaces(way, values.sun_size * values.softer, scaled(whole, values.sun_share / way[1]))
    const other = scaled(whole, 1 - values.sun_share)
    return { lamps: [sun], sky: [], counted: fewOf(sun), other, otherOnWall: other }
  }
  const isChosen = values.lit === 'by one light'
  const chosen = isChosen ? (all.find(({ name }) => name === input.light) ?? brightest(all, foot)) : undefined
  return {
    lamps: isChosen ? (chosen ? [chosen.places] : []) : all.map(({ places }) => places),
    sky: isChosen ? [] : sky,
    counted: all.flatMap(({ places }) => fewOf(places)),
    ...{ other: falling(sky, false), otherOnWall: falling(sky, true) },
  }
}
const brightest = <T extends { places: LightPlace[] }>(lamps: readonly T[], foot: Vector3): T | undefined => {
  const power = ({ places }: T): number => irradianceOf(places, foot).reduce((sum, part) => sum + part, 0)
  return [...lamps].sort((a, b) => power(b) - power(a))[0]
}
/** Four places in the midst of a light's, as bright as all. */
function fewOf(places: readonly LightPlace[]): LightPlace[] {
  if (places.length <= 4) return [...places]
  return [0, 1, 2, 3].map(which => {
    const own = places.filter((_, i) => i % 4 === which)
    const middle = own.reduce<Vector3>((sum, { at }) => add(sum, scaled(at, 1 / own.length)), [0, 0, 0])
    const { isPlace, power } = own[0]!
    return { ...own[0]!, at: isPlace ? middle : normalized(middle), power: scaled(power, places.length / 4) }
  })
}

export const fours = (places: readonly LightPlace[]): LightPlace[][] =>
  Array.from({ length: Math.ceil(places.length / 4) }, (_, i) => places.slice(i * 4, i * 4 + 4))
/** What the kernels read of lights: four places at a time, each number of all four together. */
export function tableOf(
  { card, values: { round } }: Standing,
  all: readonly (readonly LightPlace[])[],
): { lights: Float32Array; groups: number } {
  const lights = new Float32Array((all.length * CARD_LIGHTS) / 4)
  all.forEach((group, g) => {
    const base = (g * CARD_LIGHTS) / 4
    for (let i = 0; i < 4; i++) {
      const { at, isPlace, front, power, wide } = group[i] ?? { ...group[0]!, power: [0, 0, 0] }
      const [tx, tz] = facing(card, at, isPlace, round)
      const index = g * 4 + i
      const numbers = [
        ...[...at, isPlace ? 1 : 0, ...(front ?? [0, 0, 0]), front ? 0 : 1, ...power, wide],
        ...[tx, tz, ...inPixel(index)],
      ]
      numbers.forEach((value, k) => {
        lights[base + k * 4 + i] = value
      })
    }
    lights.set([...aboutOf(group), 1], base + CARD_LIGHT_MIDDLE / 4)
  })
  return { lights, groups: all.length }
}
/** The same with the foot at 0, 0 and no camera: so what follows from it is the same wherever it stands. */
export function fromFoot(place: Float32Array): Float32Array {
  const own = place.slice()
  own.fill(0, CARD_RAYS / 4, CARD_UP / 4)
  own.fill(0, CARD_WALL / 4, CARD_RISE / 4)
  own.fill(0, CARD_TOWARD / 4, CARD_REACH / 4)
  own.fill(0, CARD_OTHER / 4)
  return own
}
/** The way a card faces for a light: what stands round shows every light as wide a side as it shows the camera. */
function facing({ foot, toward }: Card, at: Vector3, isPlace: boolean, round: number): [number, number] {
  const way = isPlace ? subtract(at, foot) : at
  const level = Math.hypot(way[0], way[2])
  const [fx, fz] = level > 1e-6 ? [way[0] / level, way[2] / level] : [toward[0], toward[2]]
  const side = fx * toward[0] + fz * toward[2] < 0 ? -round : round
  const [x, , z] = normalized([toward[0] * (1 - round) + fx * side, 0, toward[2] * (1 - round) + fz * side])
  return [x, z]
}
/** Of places from above: their middle, whether that is a place, and how far about it they are. */
export function aboutOf(places: readonly LightPlace[]): [number, number, number, number] {
  const spots = places.map(({ at, isPlace }): [number, number] => {
    const level = isPlace ? 1 : Math.max(1e-6, Math.hypot(at[0], at[2]))
    return [at[0] / level, at[2] / level]
  })
  const [x, z] = [0, 1].map(k => spots.reduce((sum, spot) => sum + spot[k]!, 0) / spots.length) as [number, number]
  const spread = Math.max(...spots.map(spot => Math.hypot(spot[0] - x, spot[1] - z)), ...places.map(({ wide }) => wide))
  return [x, z, places[0]!.isPlace ? 1 : 0, spread]
}

/** Where the shadow may fall. */
export function castWindow(standing: Standing, { lamps, sky }: Shining): Box | undefined {
  const { foot } = standing.card
  const { aside, up } = reachOf(standing)
  const around = (middle: Vector3, far: number): Vector3[] =>
    [0, 1, 2, 3, 4, 5, 6, 7].map(i => {
      const angle = (i * Math.PI) / 4
      // Eight corners that hold a round
      return [middle[0] + Math.cos(angle) * far * 1.09, foot[1], middle[2] + Math.sin(angle) * far * 1.09]
    })
  const places = [
    ...around(foot, aside),
    ...(sky.length ? around(foot, aside + up * SKY_REACHES) : []),
    ...lamps.flat().flatMap(({ at, isPlace, power }) => {
      if (power.every(part => part <= 0)) return []
      const top: Vector3 = [foot[0], foot[1] + up, foot[2]]
      const way = normalized(isPlace ? subtract(at, top) : at)
      // Of light that comes from below or level it goes on as far as it is followed
      const metres = Math.min(FARTHEST * up, way[1] > 1e-6 ? up / way[1] : Infinity)
      const larger = isPlace ? 1 + metres / Math.max(1e-3, Math.hypot(...subtract(at, top))) : 1
      return around([top[0] - way[0] * metres, foot[1], top[2] - way[2] * metres], aside * larger)
    }),
  ]
  const ground = windowOf(standing, places)
  // On the wall it may climb as high as the picture goes
  return ground && standing.values.wall !== 'none' ? { ...ground, top: 0 } : ground
}

/** Places of a pixel that fill it evenly (M. Roberts 2018). */
export const inPixel = (i: number): [number, number] => [
  (i * 0.7548776662466927 + 0.5) % 1,
  (i * 0.5698402909980532 + 0.5) % 1,
]
