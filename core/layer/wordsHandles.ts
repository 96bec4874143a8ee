// What the hand takes hold of of words: where they stand, how large they are, how they lean, what they run along.
import type { FramePlace } from '../matte/handles'
import { onLevel, placeAt, rayThrough } from '../match/project'
import type { Camera } from '../scene/scene'
import { dot, subtract, type Vector3 } from '../scene/vector'
import { BEFORE, inverted } from './card'
import type { LayerHandles } from './layer'
import { isAskew, isOnPicture, metresOfWords, seenWords, type InScene } from './wordsPlace'
import type { WordsValues } from './wordsValues'

/** Where the grip of the lean is, in heights of capitals along the line. */
const ASIDE = 4

export const wordsHandles: LayerHandles = (all, { camera, frame }) => {
  const values = all as unknown as WordsValues
  const { width, height } = frame
  if (!(metresOfWords(values, camera) > BEFORE)) return undefined
  const seen = seenWords(values, camera, frame)
  const back = inverted(seen)
  if (!back) return undefined
  const through = (by: readonly number[], x: number, y: number): FramePlace | undefined => {
    const [px, py, w] = [0, 3, 6].map(row => by[row]! * x + by[row + 1]! * y + by[row + 2]!) as [number, number, number]
    return Math.abs(w) > 1e-9 ? [px / w, py / w] : undefined
  }
  const at = (x: number, y: number): FramePlace | undefined => {
    const w = seen[6]! * x + seen[7]! * y + seen[8]!
    return w > 1e-3 ? through(seen, x, y) : undefined
  }
  const grip = (id: string, label: string, place: FramePlace | undefined) => (place ? [{ id, label, at: place }] : [])
  const path = (places: readonly (FramePlace | undefined)[]): FramePlace[][] => {
    const there = places.filter(place => place !== undefined)
    return there.length > 1 ? [there] : []
  }
  const isCurve = values.runs === 'along a curve'
  const { first_x, first_y, second_x, second_y, end_x, end_y } = values
  return {
    of: 'frame',
    grips: [
      ...grip('place', 'place', at(0, 0)),
      ...grip('size', 'size', at(0, -1)),
      ...grip('lean', 'lean', at(ASIDE, 0)),
      ...(isCurve
        ? [
            ...grip('first', 'first handle of the curve', at(first_x, first_y)),
            ...grip('second', 'second handle of the curve', at(second_x, second_y)),
            ...grip('end', 'end of the curve', at(end_x, end_y)),
          ]
        : []),
    ],
    lines: [
      ...path([at(0, -1), at(0, 0), at(ASIDE, 0)]),
      ...(isCurve
        ? [...path([at(0, 0), at(first_x, first_y)]), ...path([at(second_x, second_y), at(end_x, end_y)])]
        : []),
    ],
    moved: (name, [x, y]): Record<string, number> => {
      if (name === 'place') return placed(values, camera, [x / width, y / height], [x, y], width / height)
      const own = through(back, x, y)
      if (!own) return {}
      const least = isOnPicture(values) ? 0.1 : 1e-4
      if (name === 'size') {
        const times = -own[1]
        const size = isOnPicture(values) ? values.letters : values.size
        return { [isOnPicture(values) ? 'letters' : 'size']: Math.max(least, size * times) }
      }
      if (name === 'lean') return { lean: values.lean + (Math.atan2(own[1], own[0]) * 180) / Math.PI }
      return { [`${name}_x`]: own[0], [`${name}_y`]: own[1] }
    },
  }
}

const named = (place: Vector3 | undefined): Record<string, number> =>
  place ? { x: place[0], y: place[1], z: place[2] } : {}
/** On along its level, its wall, or at its distance. */
function placed(
  values: WordsValues,
  camera: Camera,
  [u, v]: FramePlace,
  [across, down]: FramePlace,
  aspect: number,
): Record<string, number> {
  if (isOnPicture(values)) return { across, down }
  if (!isAskew(values)) return named(placeAt(camera, aspect, u, v, metresOfWords(values, camera)))
  return placedInPlane(values, camera, [u, v], aspect)
}
/** Along the ground's level, or along the wall. */
export function placedInPlane(
  values: InScene,
  camera: Camera,
  [u, v]: FramePlace,
  aspect: number,
): Record<string, number> {
  if (values.put === 'on the ground') return named(onLevel(camera, aspect, u, v, values.y))
  const angle = (values.turn * Math.PI) / 180
  const normal: Vector3 = [Math.sin(angle), 0, Math.cos(angle)]
  const m = camera.matrix
  const eye: Vector3 = [m[12]!, m[13]!, m[14]!]
  const ray = rayThrough(camera, aspect, u, v)
  const far = dot(normal, subtract([values.x, values.y, values.z], eye)) / dot(normal, ray)
  return far > 0 && far < 10000 ? named([eye[0] + ray[0] * far, eye[1] + ray[1] * far, eye[2] + ray[2] * far]) : {}
}
