// Where words stand before the camera: their own places (heights of capitals, down) to pixels.
import type { Camera } from '../scene/scene'
import { cross, dot, scaled, subtract, type Vector3 } from '../scene/vector'
import type { Seen } from '../words/flatten'
import { metresTo, pixelsAtOne, raysOf } from './card'
import type { WordsValues } from './wordsValues'

/** A frame, in pixels of the full size, and what lies round it. */
interface Frame {
  width: number
  height: number
}

/** Of what lies in a plane of the scene, as words do. */
export type InScene = Pick<WordsValues, 'put' | 'x' | 'y' | 'z' | 'turn' | 'lean' | 'size'>

/** The plane of words in the scene: right and down are as long as a capital is high. */
interface Plane {
  at: Vector3
  right: Vector3
  down: Vector3
}

export const isOnPicture = ({ put }: Pick<WordsValues, 'put'>): boolean => put === 'on the picture'
/** Whether they lie in a plane that the camera sees askew. */
export const isAskew = ({ put }: Pick<WordsValues, 'put'>): boolean => put === 'upright' || put === 'on the ground'

export const metresOfWords = (values: WordsValues, camera: Camera): number =>
  isOnPicture(values) ? values.away : metresTo(camera, [values.x, values.y, values.z])

function planeOf(values: InScene, { matrix: m }: Camera): Plane {
  const angle = (values.turn * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
  const [right, down]: [Vector3, Vector3] =
    values.put === 'facing the camera'
      ? [
          [m[0]!, m[1]!, m[2]!],
          [-m[4]!, -m[5]!, -m[6]!],
        ]
      : [[cos, 0, -sin], values.put === 'upright' ? [0, -1, 0] : [sin, 0, cos]]
  const lean = (values.lean * Math.PI) / 180
  const [c, s] = [Math.cos(lean) * values.size, Math.sin(lean) * values.size]
  const mixed = (a: number, b: number): Vector3 => [
    right[0] * a + down[0] * b,
    right[1] * a + down[1] * b,
    right[2] * a + down[2] * b,
  ]
  return { at: [values.x, values.y, values.z], right: mixed(c, s), down: mixed(-s, c) }
}

/** Their places to pixels of a frame so large that a camera sees; left and top: where the shot's own begins in it. */
export function seenWords(values: WordsValues, camera: Camera, frame: Frame, left = 0, top = 0): Seen {
  if (isOnPicture(values)) {
    const angle = (values.lean * Math.PI) / 180
    const [c, s] = [Math.cos(angle) * values.letters, Math.sin(angle) * values.letters]
    return [c, -s, values.across + left, s, c, values.down + top, 0, 0, 1]
  }
  return seenInScene(values, camera, frame)
}
/** The same of a place in the scene, from which right and down go on by its size. */
export function seenInScene(values: InScene, camera: Camera, { width, height }: Frame): Seen {
  const { matrix: m, shiftX, shiftY } = camera
  const { at, right, down } = planeOf(values, camera)
  const dense = pixelsAtOne(camera, width)
  const [middleX, middleY] = [((1 - shiftX) * width) / 2, ((1 + shiftY) * height) / 2]
  const columns = [right, down, subtract(at, [m[12]!, m[13]!, m[14]!])].map(way => {
    const x = dot(way, [m[0]!, m[1]!, m[2]!])
    const y = dot(way, [m[4]!, m[5]!, m[6]!])
    const z = -dot(way, [m[8]!, m[9]!, m[10]!])
    return [dense * x + middleX * z, middleY * z - dense * y, z]
  })
  return [0, 1, 2].flatMap(row => columns.map(column => column[row]!))
}

/** A projection to pixels of the full size to those of one that is so many times smaller. */
export const seenSmaller = (seen: readonly number[], shrink: number): number[] =>
  seen.map((value, i) => (i < 6 ? value / shrink : value))

/**
 * How near the plane of words is at each pixel of a frame: one over its metres along the view axis is a x + b y + c;
 * undefined where the camera looks along it.
 */
export function nearnessOf(
  values: InScene,
  camera: Camera,
  { width, height }: Frame,
): { a: number; b: number; c: number } | undefined {
  const { at, right, down } = planeOf(values, camera)
  const { across, down: low, first } = raysOf(camera, width, height)
  const m = camera.matrix
  const normal = scaled(cross(right, down), 1 / values.size ** 2)
  const off = dot(normal, subtract(at, [m[12]!, m[13]!, m[14]!]))
  if (Math.abs(off) < 1e-6) return undefined
  return { a: dot(normal, across) / off, b: dot(normal, low) / off, c: dot(normal, first) / off }
}
