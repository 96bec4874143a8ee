// How a thing stands in the frame, and where and how large it is put to be seen there.
import type { Box } from '../scene/bounds'
import type { Camera } from '../scene/scene'
import { dot, subtract, type Vector3 } from '../scene/vector'
import { onLevel, rayThrough, segment } from './project'

export const cornersOf = ({ low, high }: Box): Vector3[] =>
  Array.from({ length: 8 }, (_, i): Vector3 => [
    (i & 1 ? high : low)[0],
    (i & 2 ? high : low)[1],
    (i & 4 ? high : low)[2],
  ])
/** Pairs of corners (x changes first, then y, then z) that an edge of the box joins. */
export const BOX_EDGES: readonly (readonly [number, number])[] = [0, 1, 2, 3, 4, 5, 6, 7].flatMap(corner =>
  [1, 2, 4].flatMap(bit => (corner & bit ? [] : [[corner, corner | bit] as const])),
)

export interface Standing {
  /** Some of it lies in the frame, all of it does, or the camera stands in its midst. */
  seen: boolean
  whole: boolean
  around: boolean
  /** The larger of its shares of the frame's width and height; 0 behind the camera. */
  share: number
  /** Unit direction in the picture (right, down) from the middle of the frame to where it is. */
  towards: [number, number]
}

/** How the box of eight corners (in its own axes; x changes first) stands in the frame of a camera. */
export function standingOf(camera: Camera, aspect: number, corners: readonly Vector3[]): Standing {
  const u: number[] = []
  const v: number[] = []
  for (const [a, b] of BOX_EDGES) {
    const line = segment(camera, aspect, corners[a]!, corners[b]!, 1e-6)
    if (!line) continue
    u.push(line[0], line[2])
    v.push(line[1], line[3])
  }
  const low = [Math.min(...u), Math.min(...v)] as const
  const high = [Math.max(...u), Math.max(...v)] as const
  const m = camera.matrix
  const middle = [0, 1, 2].map(k => corners.reduce((sum, corner) => sum + corner[k]! / 8, 0)) as Vector3
  const d = subtract(middle, [m[12]!, m[13]!, m[14]!])
  const x = dot(d, [m[0]!, m[1]!, m[2]!])
  const y = dot(d, [m[4]!, m[5]!, m[6]!])
  const far = Math.hypot(x, y)
  return {
    seen: u.length > 0 && high[0] > 0 && low[0] < 1 && high[1] > 0 && low[1] < 1,
    whole: u.length === 24 && low[0] >= 0 && high[0] <= 1 && low[1] >= 0 && high[1] <= 1,
    around: surrounds(corners, [m[12]!, m[13]!, m[14]!]),
    share: u.length ? Math.max(high[0] - low[0], high[1] - low[1]) : 0,
    towards: far > 1e-9 ? [x / far, -y / far] : [0, 1],
  }
}

/** Whether a place lies within the box of eight corners in its own axes. */
function surrounds(corners: readonly Vector3[], place: Vector3): boolean {
  const from = subtract(place, corners[0]!)
  return [1, 2, 4].every(k => {
    const axis = subtract(corners[k]!, corners[0]!)
    const along = dot(from, axis) / Math.max(1e-18, dot(axis, axis))
    return along > 0 && along < 1
  })
}

/** Shares of the frame that a size is taken for plausible at, and the one that is aimed for. */
const PLAUSIBLE = { low: 0.04, high: 0.9, good: 0.35 }
/** Ways down the picture that the foot is tried at, in order of preference where they do as well. */
const FEET = [0.66, 0.7, 0.62, 0.74, 0.58, 0.78, 0.55, 0.82, 0.52, 0.86, 0.9, 0.94]
/** Metres that are tried where no ground is in view. */
const DISTANCES = Array.from({ length: 37 }, (_, i) => 0.1 * 10 ** (i / 9))

/** Powers of ten that are tried: centimetres and millimetres taken for metres first. */
const POWERS = [-2, -3, 1, -1, 2, 3, -4, 4]

export interface Fit {
  /** Where the foot (the middle of the box's underside) goes. */
  foot: Vector3
  /** How many times its size. */
  times: number
  /** Whether ground is in view there. */
  onGround: boolean
}

/**
 * Where a box is put so that it is seen whole, on the ground before the camera: at its own size where that can be
 * (from a twenty-fifth of the frame to nine tenths), at a power of ten of it next (files in centimetres or
 * millimetres), else at a third of the frame.
 */
export function fitBefore(camera: Camera, aspect: number, box: Box): Fit {
  const grounds = FEET.map(v => onLevel(camera, aspect, 0.5, v, 0)).filter(place => place !== undefined)
  const onGround = grounds.length > 0
  const m = camera.matrix
  const ray = rayThrough(camera, aspect, 0.5, FEET[0]!)
  const feet = onGround
    ? grounds
    : DISTANCES.map((far): Vector3 => [m[12]! + ray[0] * far, m[13]! + ray[1] * far, m[14]! + ray[2] * far])
  const size = subtract(box.high, box.low)
  const at = (foot: Vector3, times: number): Standing => {
    const [x, y, z] = [size[0] * times, size[1] * times, size[2] * times]
    return standingOf(
      camera,
      aspect,
      cornersOf({
        low: [foot[0] - x / 2, foot[1], foot[2] - z / 2],
        high: [foot[0] + x / 2, foot[1] + y, foot[2] + z / 2],
      }),
    )
  }
  // A flat sheet has no share to go by: log of next to nothing is still a number
  const costAt = (foot: Vector3, times: number): number => {
    const { whole, around, share } = at(foot, times)
    return whole && !around ? Math.abs(Math.log(Math.max(1e-9, share) / PLAUSIBLE.good)) : Infinity
  }
  /** The best place for a size; infinite cost where it is nowhere seen whole. */
  const best = (times: number): { foot: Vector3; cost: number } =>
    feet
      .map(foot => ({ foot, cost: costAt(foot, times) }))
      .reduce((one, other) => (other.cost < one.cost ? other : one))
  const own = best(1)
  const { share: ownShare } = at(own.foot, 1)
  if (own.cost < Infinity && ownShare >= PLAUSIBLE.low && ownShare <= PLAUSIBLE.high)
    return { foot: own.foot, times: 1, onGround }
  // Of the powers of ten that do: the least enlarging one, or the shrinking one that suits the first foot best
  const fitting = POWERS.map(power => ({
    times: 10 ** power,
    ...best(10 ** power),
    first: power > 0 ? power : costAt(feet[0]!, 10 ** power),
  }))
    .filter(({ cost }) => cost < Math.LN2 * 1.3)
    .sort((a, b) => (a.first === b.first ? 0 : a.first - b.first))[0]
  if (fitting) return { foot: fitting.foot, times: fitting.times, onGround }
  const foot = feet[0]!
  // The share follows the size closely enough for a few rounds to settle
  let times = 1
  for (let round = 0; round < 60; round++) {
    const { share, whole } = at(foot, times)
    if (whole && Math.abs(Math.log(share / PLAUSIBLE.good)) < 0.05) break
    times *= share > 0 && whole ? Math.min(1e3, PLAUSIBLE.good / share) : 0.5
  }
  return { foot, times: Number(times.toPrecision(2)), onGround }
}

/** Whether what stands there needs no putting: it is seen and neither a speck nor a wall. */
export const standsWell = ({ seen, around, share }: Standing, oneThing: boolean): boolean =>
  around ? !oneThing : seen && share >= PLAUSIBLE.low && share <= 2
