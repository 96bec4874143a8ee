// What a figure's casts are worked out from: its card before the shot's camera, with what the kernels are told of it.
import { common, grown, type Box } from '../engine/box'
import { project } from '../match/project'
import type { Node } from '../plan/node'
import { reduced } from '../plan/reduced'
import { boxOfSize, fullSize, type Size } from '../plan/size'
import type { Camera } from '../scene/scene'
import { scaled, type Vector3 } from '../scene/vector'
import {
  CARD_BOUNDS,
  CARD_DENSE,
  CARD_EYE,
  CARD_FOOT,
  CARD_GROUND,
  CARD_LEVELS,
  CARD_MAP,
  CARD_OTHER,
  CARD_OTHER_WALL,
  CARD_PLACE,
  CARD_RAYS,
  CARD_REACH,
  CARD_RISE,
  CARD_SKY_FROM,
  CARD_SKY_ROWS,
  CARD_TOWARD,
  CARD_UP,
  CARD_WALL,
  CARD_WALL_AT,
  CARD_WALL_THERE,
} from '../../kernels/assembly/layout'
import { BEFORE, cardOf, fewerOf, metresTo, pixelsAtOne, raysOf, type Affine, type Card, type OnCard } from './card'
import { contactOf, stanceOf, type FigureValues } from './figureValues'

/** Farther than so many heights it takes less than a hundredth of the sky; that has faded by then. */
export const SKY_REACHES = 2.2
/** Nearer to its foot than this share of its height all is as it is there. */
const SKY_FROM = 0.01

export interface Standing {
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

type Levels = Record<'level0' | 'level1' | 'level2' | 'level3' | 'level4', Node>

export function standingOf(on: OnCard, camera: Camera, size: Size, values: FigureValues): Standing {
  const card = cardOf(stanceOf(values), contactOf(values), on.picture, camera)
  const [fewerX, fewerY] = fewerOf(on)
  const [a, b, c, d, e, f] = card.toPicture
  const perMetre = Math.hypot(d, e) * fewerY
  // No finer than it is seen: pixels of the frame to a metre there
  const seen = pixelsAtOne(camera, fullSize(size).width)
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
export function placeOf(standing: Standing, light?: { other: Vector3; otherOnWall: Vector3 }): Float32Array {
  const { card, camera, size, values, dense, map, bounds } = standing
  const { matrix: m } = camera
  const table = new Float32Array(CARD_PLACE / 4)
  const put = (at: number, ...numbers: readonly number[]): void => table.set(numbers, at / 4)
  const { width, height } = fullSize(size)
  const { across, down, first } = raysOf(camera, width, height)
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
  put(CARD_OTHER, ...(light?.other ?? []))
  put(CARD_OTHER_WALL, ...(light?.otherOnWall ?? []))
  return table
}
/** The wall: its normal toward the camera (x, z), and how far along that it is. */
export function wallOf(
  { wall_x, wall_z, wall_turn }: FigureValues,
  { matrix: m }: Camera,
): { normal: [number, number]; at: number } {
  const angle = (wall_turn * Math.PI) / 180
  const normal: [number, number] = [Math.sin(angle), Math.cos(angle)]
  const at = normal[0] * wall_x + normal[1] * wall_z
  const eye = normal[0] * m[12]! + normal[1] * m[14]!
  return eye >= at ? { normal, at } : { normal: [-normal[0], -normal[1]], at: -at }
}

export const ofLevels = (levels: Levels, which: number): Box => Object.values(levels)[which]!.window

/** Pixels that places of the world reach over; all of the frame where one is behind the camera; undefined where none is seen. */
export function windowOf({ camera, size }: Standing, places: readonly Vector3[]): Box | undefined {
  const { width, height } = fullSize(size)
  const frame = boxOfSize(size)
  if (!places.length) return undefined
  const seen = places.map(place => project(camera, width / height, place))
  if (seen.some(({ metres }) => !(metres > BEFORE))) return frame
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
export function reachOf(standing: Standing): { aside: number; up: number } {
  const { foot } = standing.card
  const corners = cornersOf(standing)
  return {
    aside: Math.max(...corners.map(place => Math.hypot(place[0] - foot[0], place[2] - foot[2]))),
    up: Math.max(1e-3, ...corners.map(place => place[1] - foot[1])),
  }
}
/** Where it may be mirrored. */
export function mirrorWindow(standing: Standing, wall: boolean): Box | undefined {
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
