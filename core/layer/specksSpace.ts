// Specks in space: where each is at a time. Air is a lattice of cubes that drifts along; in each cube as many specks stand
// without order, the same ones whenever it is looked at, so that a camera may go through them.
import type { Camera } from '../scene/scene'
import type { Vector3 } from '../scene/vector'
import { placeAt } from '../match/project'
import { unitsOf } from './scatter'
import type { SpecksValues } from './specksValues'

/** In each cube. */
const IN_CUBE = 6
/** Families of specks, each of which drifts at its own speed: the middle, slower, faster. */
const FAMILIES = [0, -1, 1] as const
/** Specks that are made at most: of more only as many as these, evenly. */
export const MOST_SPECKS = 200_000
/** Specks that are looked at at most, to find those in sight among them. */
const MOST_TRIED = 10 * MOST_SPECKS
const { PI } = Math

/** A speck as numbers, the same ones for each: metres of the world when the shutter opens and when it closes, then 0..1 each of its own. */
export const SPECK_FROM = 0
export const SPECK_TO = 3
export const SPECK_SIZE = 6
export const SPECK_PHASE = 7
export const SPECK_COLOUR = 8
/** Which way it turns, and how it lies. */
export const SPECK_SPIN = 9
const SPECK_NUMBERS = 10

/** Metres that a family drifts in a second. */
function drift({ fall, wind, heading, speeds }: SpecksValues, family: number): Vector3 {
  const times = 1 + speeds * family
  const angle = (heading * PI) / 180
  return [Math.sin(angle) * wind * times, -fall * times, -Math.cos(angle) * wind * times]
}

/** Cubic metres that are in sight between nearest and farthest. */
export function volumeInSight(values: SpecksValues, camera: Camera, aspect: number): number {
  const { near, far, where, wide, tall, deep } = values
  const across = camera.sensorWidth / camera.focalLength
  const seen = (across * across * Math.max(0, far ** 3 - Math.min(near, far) ** 3)) / 3 / aspect
  return where === 'in a box' ? Math.min(seen, wide * tall * deep) : seen
}
/** How many specks are in sight, and which share of them is made. */
export function inSight(values: SpecksValues, camera: Camera, aspect: number): { count: number; made: number } {
  const { density } = values
  const count = density * volumeInSight(values, camera, aspect)
  // What sways far in and out of sight is made wherever it may come from
  const room = boundsOf(values, camera, aspect)
  const tried = room ? density * [0, 1, 2].reduce((sides, k) => sides * (room.high[k]! - room.low[k]!), 1) : 0
  return { count, made: Math.min(1, MOST_SPECKS / Math.max(1, count), MOST_TRIED / Math.max(1, tried)) }
}

/**
 * Every speck that may be in sight. seconds: of the middle of the shutter, and how long it is open.
 */
export function eachSpeck(
  values: SpecksValues,
  camera: Camera,
  aspect: number,
  [now, open]: readonly [now: number, open: number],
  each: (speck: Float64Array) => void,
): void {
  const { density, there, seed: told } = values
  // More than are made would not be told apart: the lattice is as wide as those that are need
  const { made } = inSight(values, camera, aspect)
  const side = ((IN_CUBE * FAMILIES.length) / (density * made)) ** (1 / 3)
  const room = boundsOf(values, camera, aspect)
  if (!room) return
  const sees = seenBy(camera, aspect, values, (side * Math.sqrt(3)) / 2 + values.sway * 1.5)
  // What moves through the picture's edge while the shutter is open, or is drawn wide there, is in sight yet
  const moves = open * Math.hypot(values.fall, values.wind) * (1 + values.speeds)
  const isIn = seenBy(camera, aspect, values, values.sway * 1.5 + moves + (values.size * values.long) / 1000 + 0.3)
  const sway = swayOf(values)
  const speck = new Float64Array(SPECK_NUMBERS)
  FAMILIES.forEach((family, which) => {
    const way = drift(values, family)
    const at = (t: number): Vector3 => [way[0] * t, way[1] * t, way[2] * t]
    const off = at(now)
    const [first, last] = [room.low, room.high].map(corner =>
      corner.map((value, k) => Math.floor((value - off[k]!) / side)),
    ) as [number[], number[]]
    const [halfX, halfY, halfZ] = at(open / 2)
    const seed = Math.round(told) * 3 + which
    for (let i = first[0]!; i <= last[0]!; i++)
      for (let j = first[1]!; j <= last[1]!; j++)
        for (let k = first[2]!; k <= last[2]!; k++) {
          const cornerX = i * side + off[0]
          const cornerY = j * side + off[1]
          const cornerZ = k * side + off[2]
          if (!sees(cornerX + side / 2, cornerY + side / 2, cornerZ + side / 2)) continue
          const own = unitsOf(seed, cubeOf(i, j, k))
          for (let n = 0; n < IN_CUBE; n++) {
            const x = cornerX + own() * side
            const y = cornerY + own() * side
            const z = cornerZ + own() * side
            speck[SPECK_SIZE] = own()
            const phase = own()
            speck[SPECK_PHASE] = phase
            speck[SPECK_COLOUR] = own()
            speck[SPECK_SPIN] = own()
            if (own() >= there || !isIn(x, y, z)) continue
            sway(now - open / 2, phase, speck, SPECK_FROM)
            speck[0]! += x - halfX
            speck[1]! += y - halfY
            speck[2]! += z - halfZ
            sway(now + open / 2, phase, speck, SPECK_TO)
            speck[3]! += x + halfX
            speck[4]! += y + halfY
            speck[5]! += z + halfZ
            each(speck)
          }
        }
  })
}
/** A number of a cube: primes keep neighbours apart (M. Teschner and others, VMV 2003). */
const cubeOf = (i: number, j: number, k: number): number =>
  Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(k, 83492791)

/** To and fro about its way, metres: three numbers of a speck. */
function swayOf({
  sway,
  sway_seconds: period,
}: SpecksValues): (t: number, phase: number, speck: Float64Array, at: number) => void {
  const turn = (2 * PI) / period
  return (t, phase, speck, at) => {
    speck[at] = sway && sway * Math.sin(turn * t + phase * 2 * PI)
    speck[at + 1] = sway && sway * 0.3 * Math.sin(turn * 1.7 * t + phase * 31)
    speck[at + 2] = sway && sway * Math.sin(turn * 0.8 * t + phase * 17)
  }
}

interface Bounds {
  low: Vector3
  high: Vector3
}
/** The box of the world that all in sight lies in; undefined where that is nothing. */
function boundsOf(values: SpecksValues, camera: Camera, aspect: number): Bounds | undefined {
  const { near, far, sway, where, x, y, z, wide, tall, deep, floor } = values
  if (!(far > near)) return undefined
  const corners = [near, far].flatMap(metres =>
    [0, 1].flatMap(u => [0, 1].map(v => placeAt(camera, aspect, u, v, metres))),
  )
  const low = [0, 1, 2].map(k => Math.min(...corners.map(corner => corner[k]!)) - sway) as Vector3
  const high = [0, 1, 2].map(k => Math.max(...corners.map(corner => corner[k]!)) + sway) as Vector3
  low[1] = Math.max(low[1], floor - sway)
  if (where === 'in a box') {
    const middle = [x, y, z]
    ;[wide, tall, deep].forEach((size, k) => {
      low[k] = Math.max(low[k]!, middle[k]! - size / 2 - sway)
      high[k] = Math.min(high[k]!, middle[k]! + size / 2 + sway)
    })
  }
  return [0, 1, 2].every(k => low[k]! < high[k]!) ? { low, high } : undefined
}

/** Whether what is within so many metres of a place may be in sight. */
function seenBy(
  camera: Camera,
  aspect: number,
  { near, far }: SpecksValues,
  radius: number,
): (x: number, y: number, z: number) => boolean {
  const m = camera.matrix
  const tanX = camera.sensorWidth / 2 / camera.focalLength
  const tanY = tanX / aspect
  const [roomX, roomY] = [radius * Math.hypot(1, tanX), radius * Math.hypot(1, tanY)]
  const [midX, midY] = [camera.shiftX * tanX, camera.shiftY * tanY]
  return (x, y, z) => {
    const [dx, dy, dz] = [x - m[12]!, y - m[13]!, z - m[14]!]
    const depth = -(dx * m[8]! + dy * m[9]! + dz * m[10]!)
    if (depth < near - radius || depth > far + radius) return false
    const across = dx * m[0]! + dy * m[1]! + dz * m[2]!
    const up = dx * m[4]! + dy * m[5]! + dz * m[6]!
    return (
      Math.abs(across - midX * depth) <= depth * tanX + roomX * (1 + Math.abs(camera.shiftX)) &&
      Math.abs(up - midY * depth) <= depth * tanY + roomY * (1 + Math.abs(camera.shiftY))
    )
  }
}
