// The copies of an element: where each stands, how it is turned, when it plays.
import { wander } from '../engine/wander'
import { project } from '../match/project'
import type { Camera } from '../scene/scene'
import type { Vector3 } from '../scene/vector'
import { pixelsAtOne, raysOf, type CardPicture, type Projection } from './card'
import type { ElementValues } from './elementValues'
import { about, evenly, unit } from './scatter'

export interface Copy {
  /** Metres of the world: its middle, or its foot. */
  at: Vector3
  /** Height of its picture, metres. */
  size: number
  /** Degrees clockwise. */
  turn: number
  mirrored: boolean
  /** Frames of the shot ahead of where it begins, at its speed. */
  plays: number
  /** As bright as it is now. */
  bright: number
  seed: number
}
/** What differs, by what it is drawn for. */
const WHAT = { turn: 1, size: 2, mirrored: 3, speed: 4, along: 5 } as const
/** From the seed of one copy to that of the next: the first has that of the element, so that one parted from it goes on. */
const APART = 613
/** Whether what stands there stands on its lower edge. */
export const standsOnGround = ({ spread }: Pick<ElementValues, 'spread'>): boolean => spread === 'on the ground'

/** All copies at a frame of a shot; begins: the frame at which the clip does. */
export function copiesOf(values: ElementValues, frame: number, begins: number): Copy[] {
  const count = Math.max(1, Math.round(values.copies))
  const seed = Math.round(values.seed)
  return Array.from({ length: count }, (_, i) => {
    const own = (seed + i * APART) % 10000
    const speed = values.speed * (1 + values.speeds * about(seed, i, WHAT.speed))
    return {
      at: placeOf(values, i, count, seed),
      size: values.size * (1 + values.sizes * about(seed, i, WHAT.size)),
      turn: values.turn + values.turns * about(seed, i, WHAT.turn),
      mirrored: (values.facing === 'mirrored') !== unit(seed, i, WHAT.mirrored) < values.mirrored,
      // Spread evenly no two are at the same frame
      plays: (frame - begins) * speed + values.offset + values.offsets * (evenly(seed, i, 1, 0) * 2 - 1),
      bright: Math.max(0, 1 + values.flicker * wander(frame / values.flicker_frames, own)),
      seed: own,
    }
  })
}

function placeOf(values: ElementValues, i: number, count: number, seed: number): Vector3 {
  const { x, y, z, wide, tall, deep } = values
  switch (values.spread) {
    case 'in one place':
      return [x, y, z]
    case 'along a line': {
      // Of one copy the line has no length
      if (count === 1) return [x, y, z]
      // Each within its own part of the line
      const t = Math.min(1, Math.max(0, (i + 0.4 * about(seed, i, WHAT.along)) / (count - 1)))
      return [x + (values.end_x - x) * t, y + (values.end_y - y) * t, z + (values.end_z - z) * t]
    }
    case 'in a region': {
      const at = (which: number): number => evenly(seed, i, 3, which) - 0.5
      return [x + wide * at(0), y + tall * at(1), z + deep * at(2)]
    }
    case 'on the ground': {
      const at = (which: number): number => evenly(seed, i, 2, which) - 0.5
      return [x + wide * at(0), y, z + deep * at(1)]
    }
  }
}

/** Places of the frame (pixels of the full size) to those of the picture of a copy, which faces the camera. */
export function copyMap(
  { at, size, turn, mirrored }: Copy,
  onGround: boolean,
  { width, height, pixelAspect }: CardPicture,
  camera: Camera,
  frame: { width: number; height: number },
): Projection {
  const { u, v, metres } = project(camera, frame.width / frame.height, at)
  const [cx, cy] = [u * frame.width, v * frame.height]
  // Pixels of the picture to a pixel of the frame
  const dense = (height / size) * (metres / pixelsAtOne(camera, frame.width))
  const angle = (turn * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle) * dense, Math.sin(angle) * dense]
  const side = (mirrored ? -1 : 1) / pixelAspect
  const foot = onGround ? height : height / 2
  return [
    ...[side * cos, side * sin, width / 2 - side * (cos * cx + sin * cy)],
    ...[-sin, cos, foot + sin * cx - cos * cy],
    ...[0, 0, 1],
  ]
}

/** What pixels show at so many metres along the view: first, one pixel to the right, one down, in the world. */
export function planeAt(
  camera: Camera,
  metres: number,
  { width, height }: { width: number; height: number },
): { first: Vector3; right: Vector3; low: Vector3 } {
  const { across, down, first } = raysOf(camera, width, height)
  const m = camera.matrix
  const scaledBy = (way: Vector3): Vector3 => [way[0] * metres, way[1] * metres, way[2] * metres]
  const corner = scaledBy(first)
  return {
    first: [m[12]! + corner[0], m[13]! + corner[1], m[14]! + corner[2]],
    right: scaledBy(across),
    low: scaledBy(down),
  }
}
