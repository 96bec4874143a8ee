// What a figure casts: its shadow on the ground and on a wall, and what both mirror of it.
import { boxOf, common, grown, type Box } from '../engine/box'
import { point } from '../formula/point'
import { raster, shade, splat } from '../../kernels/record'
import { Blend, CardMirror, CardShadow, CardSky, GroundDepth, MultiplyRatio } from '../../kernels/records'
import {
  CARD_BOUNDS,
  CARD_DENSE,
  CARD_EYE,
  CARD_FACETS,
  CARD_FOOT,
  CARD_GROUND,
  CARD_LEVELS,
  CARD_LIGHT_MIDDLE,
  CARD_LIGHTS,
  CARD_MAP,
  CARD_OTHER,
  CARD_OTHER_WALL,
  CARD_PLACE,
  CARD_RAYS,
  CARD_REACH,
  CARD_RISE,
  CARD_SKY_FROM,
  CARD_SKY_HEADINGS,
  CARD_SKY_ROWS,
  CARD_TOWARD,
  CARD_UP,
  CARD_WALL,
  CARD_WALL_AT,
  CARD_WALL_THERE,
} from '../../kernels/assembly/layout'
import { joined, turnedOver } from '../matte/join'
import { project } from '../match/project'
import { blendKernel } from '../plan/modes'
import { finite } from '../plan/finite'
import { kernelNode, type Node } from '../plan/node'
import { atDistance } from '../plan/picture'
import { pointNode, whole } from '../plan/pointNode'
import { reduced } from '../plan/reduced'
import { boxOfSize, type Size } from '../plan/size'
import type { Camera } from '../scene/scene'
import { normalized, scaled, subtract, type Vector3 } from '../scene/vector'
import { cardOf, fewerOf, metresTo, raysOf, type Affine, type Card, type OnCard } from './card'
import { irradianceOf, placesOf, skyPlaces, sunPlaces, type LightPlace } from './castLights'
import { contactOf, stanceOf, type FigureValues } from './figureValues'
import type { Cast, CastBy, CastSlip, LayerInput, Shown } from './layer'

/** Of water; glass has 1.5. */
const INDEX = { ground: 1.333, wall: 1.5 }
/** Ways that a rough ground mirrors to. */
const FACETS = 24
/** A roughness of 1 is so steep a slope, as a standard deviation. */
const ROUGHEST = 0.3
/** Shadows are followed so many heights far. */
const FARTHEST = 60
/** Farther than so many heights nobody sees what it takes of the sky: less than two thousandths of what falls there. */
const SKY_REACHES = 2.2
/** Nearer to its foot than this share of its height all is as it is there. */
const SKY_FROM = 0.01

interface Standing {
  card: Card
  camera: Camera
  size: Size
  values: FigureValues
  levels: Levels
  /** Pixels of the first level to a metre. */
  dense: number
  map: Affine
  bounds: Box
}

export function figureCasts(input: LayerInput, values: FigureValues, by: CastBy): Cast[] {
  const own = input.picture()
  const camera = input.camera()
  if (!own || metresTo(camera, [values.x, values.level, values.z]) <= 0) return []
  const standing = standingOf({ node: finite(own.node), picture: own }, camera, input.size, values)
  const isWall = values.wall !== 'none'
  return [
    ...(values.shadow > 0 ? shadowCast(standing, input, by) : []),
    ...(values.mirror > 0 ? mirrorCast(standing, by, values.mirror, false) : []),
    ...(isWall && values.mirror_wall > 0 ? mirrorCast(standing, by, values.mirror_wall, true) : []),
  ]
}

type Levels = Record<'level0' | 'level1' | 'level2' | 'level3' | 'level4', Node>
function standingOf(on: OnCard, camera: Camera, size: Size, values: FigureValues): Standing {
  const card = cardOf(stanceOf(values), contactOf(values), on.picture, camera)
  const [fewerX, fewerY] = fewerOf(on)
  const [a, b, c, d, e, f] = card.toPicture
  const perMetre = Math.hypot(d, e) * fewerY
  // No finer than it is seen: pixels of the frame to a metre there
  const seen = (camera.focalLength / camera.sensorWidth) * (size.frameWidth + 2 * size.left)
  const frame = seen / size.shrink / Math.max(0.01, metresTo(camera, card.foot))
  const times = Math.max(0, Math.floor(Math.log2(perMetre / Math.max(1e-9, frame))))
  const first = reduced(on.node, times)
  const less = 2 ** -times
  const levels = Object.fromEntries(
    Array.from({ length: CARD_LEVELS }, (_, i) => [`level${i}`, reduced(first, i)]),
  ) as Levels
  return {
    ...{ card, camera, size, values, levels },
    dense: perMetre * less,
    map: [
      a * fewerX * less,
      b * fewerX * less,
      c * fewerX * less,
      d * fewerY * less,
      e * fewerY * less,
      f * fewerY * less,
    ],
    bounds: first.window,
  }
}

/** What all kernels of a card are told (CARD_PLACE). */
function placeOf(standing: Standing, shining?: Shining): Float32Array {
  const { card, camera, size, values, dense, map, bounds } = standing
  const { matrix: m } = camera
  const table = new Float32Array(CARD_PLACE / 4)
  const put = (at: number, ...numbers: readonly number[]): void => table.set(numbers, at / 4)
  const { across, down, first } = raysOf(camera, size.frameWidth + 2 * size.left, size.frameHeight + 2 * size.top)
  put(CARD_RAYS, ...scaled(across, size.shrink), ...scaled(down, size.shrink), ...first)
  put(CARD_EYE, m[12]!, m[13]!, m[14]!)
  put(CARD_GROUND, values.level)
  put(CARD_UP, m[13]! >= values.level ? 1 : -1)
  if (values.wall !== 'none') {
    const { normal, at } = wallOf(values, camera)
    put(CARD_WALL, ...normal)
    put(CARD_WALL_AT, at, normal[0] * m[12]! + normal[1] * m[14]!, 1)
  } else put(CARD_WALL_THERE, 0)
  put(CARD_FOOT, ...card.foot)
  put(CARD_RISE, card.rise)
  put(CARD_MAP, ...map)
  put(CARD_DENSE, dense)
  put(CARD_BOUNDS, bounds.left, bounds.top, bounds.right, bounds.bottom)
  put(CARD_TOWARD, card.toward[0], card.toward[2])
  const { aside, up } = reachOf(standing)
  put(CARD_REACH, aside)
  put(CARD_SKY_FROM, up * SKY_FROM, Math.log((aside + up * SKY_REACHES) / (up * SKY_FROM)) / (CARD_SKY_ROWS - 1))
  put(CARD_OTHER, ...(shining?.other ?? []))
  put(CARD_OTHER_WALL, ...(shining?.otherOnWall ?? []))
  return table
}
/** The wall: its normal toward the camera (x, z), and how far along that it is. */
function wallOf(
  { wall_x, wall_z, wall_turn }: FigureValues,
  { matrix: m }: Camera,
): { normal: [number, number]; at: number } {
  const angle = (wall_turn * Math.PI) / 180
  const normal: [number, number] = [Math.sin(angle), Math.cos(angle)]
  const at = normal[0] * wall_x + normal[1] * wall_z
  const eye = normal[0] * m[12]! + normal[1] * m[14]!
  return eye >= at ? { normal, at } : { normal: [-normal[0], -normal[1]], at: -at }
}

/** What is nearer than this share of the way to the ground stands before it: no ground is quite level. */
const BEFORE = 0.95
/** How much of what is laid is ground or wall, where the layer says; undefined where that cannot be made. */
function receiving(standing: Standing, picture: Shown, by: CastBy, which: CastSlip): Node | undefined {
  // Of the camera and the ground alone: it stays as it is while a figure moves
  const place = placeOf(standing)
  place.fill(0, CARD_FOOT / 4)
  const metres = kernelNode(GroundDepth, { place, times: BEFORE }, { window: picture.colour.window })
  const ground = turnedOver(picture.nearer(metres))
  const where = by.where(which, picture)
  return where === 'everywhere' || !where ? where && ground : joined(ground, where, 'only')
}

/** What is left of light of which such a share of each channel is taken. tint: of what is taken that is left. */
const Left = point(
  'CastLeft',
  { ground: raster('single'), tint: shade, amount: splat },
  ({ colour, singles, values }) =>
    colour.map((taken, i) => {
      const one = taken.terms.constant(1)
      const gone = taken.atMost(1).times(one.minus(values.tint[i])).times(values.amount).times(singles.ground)
      return one.minus(gone).atLeast(0)
    }),
)

function shadowCast(standing: Standing, input: LayerInput, by: CastBy): Cast[] {
  const { values, levels } = standing
  const shining = shiningOn(input, standing)
  const window = castWindow(standing, shining)
  if (!window) return []
  const place = placeOf(standing, shining)
  const needs = (_: Box, which: number): Box => ofLevels(levels, which)
  const counted = fours(shining.counted)
  const ofLamps = shining.lamps.filter(({ length }) => length).map(fours)
  const casting = ofLamps.flat()
  const sky = shining.sky.length
    ? kernelNode(
        CardSky,
        { ...levels, place: fromFoot(place), ...tableOf(standing, fours(shining.sky)) },
        { window: boxOf(CARD_SKY_HEADINGS + 1, CARD_SKY_ROWS), needs },
      )
    : undefined
  const { lights } = tableOf(standing, [...counted, ...casting])
  // What a whole lamp shines past need not be looked at four by four
  let at = counted.length
  for (const lamp of ofLamps) {
    lights.set([...aboutOf(lamp.flat()), lamp.length], (at * CARD_LIGHTS + CARD_LIGHT_MIDDLE) / 4)
    at += lamp.length
  }
  const taken = kernelNode(
    CardShadow,
    { ...levels, place, lights, counted: counted.length, groups: casting.length, sky },
    { window, needs: (area, which) => (which < CARD_LEVELS ? needs(area, which) : sky!.window) },
  )
  return [
    {
      lay: picture => {
        const ground = receiving(standing, picture, by, 'ground')
        if (!ground) return picture.colour
        const { colour: source } = picture
        const ratio = pointNode(Left, whole(taken), { ground, tint: values.shade, amount: values.shadow * by.opacity })
        return kernelNode(
          MultiplyRatio,
          { source, ratio, strength: 1 },
          { window: source.window, only: { where: 'ratio', elsewhere: 'source' } },
        )
      },
    },
  ]
}
const ofLevels = (levels: Levels, which: number): Box => Object.values(levels)[which]!.window

function mirrorCast(standing: Standing, by: CastBy, amount: number, wall: boolean): Cast[] {
  const { card, size, values, levels } = standing
  const window = mirrorWindow(standing, wall)
  if (!window) return []
  const facets = facetTable(values.mirror_rough * ROUGHEST)
  const own = kernelNode(
    CardMirror,
    {
      ...levels,
      ...{
        place: placeOf(standing),
        facets,
        count: FACETS,
        wall: wall ? 1 : 0,
        amount,
        fade: values.mirror_fade,
        hides: Math.min(1, values.mirror_hides * Math.min(1, amount)),
      },
      spread: values.mirror_rough * ROUGHEST * (3.2 / Math.sqrt(FACETS)),
      index: wall ? INDEX.wall : INDEX.ground,
    },
    { window, needs: (_, which) => ofLevels(levels, which) },
  )
  const colour = by.lined({
    colour: own,
    ...atDistance(Math.max(0.01, metresTo(standing.camera, card.foot)), boxOfSize(size)),
  })
  return [
    {
      lay: picture => {
        const matte = receiving(standing, picture, by, 'wet')
        if (!matte) return picture.colour
        const { window: all } = picture.colour
        return kernelNode(
          Blend,
          { backdrop: picture.colour, source: colour, mode: blendKernel('over'), opacity: by.opacity, matte },
          { window: all, only: { where: 'source', elsewhere: 'backdrop' } },
        )
      },
    },
  ]
}

/** What shines on a figure: what throws its shadow, and by what all that falls on the ground is counted. */
interface Shining {
  /** Places of lamps and suns, one list a light, and of the sky, that throw its shadow. */
  lamps: LightPlace[][]
  sky: LightPlace[]
  /** A few places of every lamp and sun. */
  counted: LightPlace[]
  /** What else falls on the ground, and on the wall. */
  other: Vector3
  otherOnWall: Vector3
}
function shiningOn(input: LayerInput, { card: { foot }, values, camera }: Standing): Shining {
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
/** Four of a light's places, as bright as all. */
function fewOf(places: readonly LightPlace[]): LightPlace[] {
  if (places.length <= 4) return [...places]
  return [0.125, 0.375, 0.625, 0.875].map(share => {
    const place = places[Math.floor(share * places.length)]!
    return { ...place, power: scaled(place.power, places.length / 4) }
  })
}

const fours = (places: readonly LightPlace[]): LightPlace[][] =>
  Array.from({ length: Math.ceil(places.length / 4) }, (_, i) => places.slice(i * 4, i * 4 + 4))
/** What the kernels read of lights: four places at a time, each number of all four together. */
function tableOf(
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
function fromFoot(place: Float32Array): Float32Array {
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
function aboutOf(places: readonly LightPlace[]): [number, number, number, number] {
  const spots = places.map(({ at, isPlace }): [number, number] => {
    const level = isPlace ? 1 : Math.max(1e-6, Math.hypot(at[0], at[2]))
    return [at[0] / level, at[2] / level]
  })
  const [x, z] = [0, 1].map(k => spots.reduce((sum, spot) => sum + spot[k]!, 0) / spots.length) as [number, number]
  const spread = Math.max(...spots.map(spot => Math.hypot(spot[0] - x, spot[1] - z)), ...places.map(({ wide }) => wide))
  return [x, z, places[0]!.isPlace ? 1 : 0, spread]
}

/** Ways that ground of such slopes mirrors to, spread evenly by how often they are. */
function facetTable(slope: number): Float32Array {
  const table = new Float32Array((FACETS / 4) * (CARD_FACETS / 4))
  for (let i = 0; i < FACETS; i++) {
    // Slopes of a rough surface are normal, so their squares are exponential (C. Cox, W. Munk 1954)
    const far = slope * Math.sqrt(-2 * Math.log(1 - (i + 0.5) / FACETS))
    const angle = i * Math.PI * (3 - Math.sqrt(5))
    ;[far * Math.cos(angle), far * Math.sin(angle), ...inPixel(i)].forEach((value, k) => {
      table[(Math.floor(i / 4) * CARD_FACETS) / 4 + k * 4 + (i % 4)] = value
    })
  }
  return table
}
/** Places of a pixel that fill it evenly (M. Roberts 2018). */
const inPixel = (i: number): [number, number] => [
  (i * 0.7548776662466927 + 0.5) % 1,
  (i * 0.5698402909980532 + 0.5) % 1,
]

/** Pixels that places of the world reach over; all of the frame where one is behind the camera; undefined where none is seen. */
function windowOf({ camera, size }: Standing, places: readonly Vector3[]): Box | undefined {
  const [width, height] = [size.frameWidth + 2 * size.left, size.frameHeight + 2 * size.top]
  const frame = boxOfSize(size)
  if (!places.length) return undefined
  const seen = places.map(place => project(camera, width / height, place))
  if (seen.some(({ metres }) => !(metres > 0.01))) return frame
  const xs = seen.map(({ u }) => (u * width) / size.shrink)
  const ys = seen.map(({ v }) => (v * height) / size.shrink)
  const box = common(
    frame,
    grown(
      {
        left: Math.floor(Math.min(...xs)),
        top: Math.floor(Math.min(...ys)),
        right: Math.ceil(Math.max(...xs)),
        bottom: Math.ceil(Math.max(...ys)),
      },
      2,
    ),
  )
  return box.right > box.left && box.bottom > box.top ? box : undefined
}
/** Corners of the card's picture in the world, a little grown. */
function cornersOf({ card, levels, map }: Standing): Vector3[] {
  const { left, top, right, bottom } = levels.level0.window
  const [a, b, c, d, e, f] = map
  const det = a * e - b * d
  return [
    [left, top],
    [right, top],
    [left, bottom],
    [right, bottom],
  ].map(([x, y]) => {
    const [u, v] = [x! - c, y! - f]
    const [s, t] = [(e * u - b * v) / det, (a * v - d * u) / det]
    return [
      card.foot[0] + card.right[0] * s,
      card.foot[1] + t - card.rise * s,
      card.foot[2] + card.right[2] * s,
    ] as Vector3
  })
}
/** How far the card reaches aside from its foot, and up, metres. */
function reachOf(standing: Standing): { aside: number; up: number } {
  const { foot } = standing.card
  const corners = cornersOf(standing)
  return {
    aside: Math.max(...corners.map(place => Math.hypot(place[0] - foot[0], place[2] - foot[2]))),
    up: Math.max(1e-3, ...corners.map(place => place[1] - foot[1])),
  }
}
/** Where the shadow may fall. */
function castWindow(standing: Standing, { lamps, sky }: Shining): Box | undefined {
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
/** Where it may be mirrored. */
function mirrorWindow(standing: Standing, wall: boolean): Box | undefined {
  const { card, camera, values } = standing
  const mirrored = cornersOf(standing).map((place): Vector3 => {
    if (!wall) return [place[0], 2 * card.foot[1] - place[1], place[2]]
    const { normal, at } = wallOf(values, camera)
    const off = normal[0] * place[0] + normal[1] * place[2] - at
    return [place[0] - 2 * off * normal[0], place[1], place[2] - 2 * off * normal[1]]
  })
  const exact = windowOf(standing, mirrored)
  if (!exact || values.mirror_rough === 0) return exact
  // A rough one draws it out toward the viewer and a little aside
  const { left, top, right, bottom } = exact
  const [across, down] = [right - left, bottom - top].map(side => Math.ceil(side * values.mirror_rough * 2)) as [
    number,
    number,
  ]
  return common(boxOfSize(standing.size), {
    left: left - across,
    top: top - down,
    right: right + across,
    bottom: bottom + down * 4,
  })
}
