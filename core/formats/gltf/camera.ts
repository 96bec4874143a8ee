// Cameras of glTF 2.0 as lenses in millimetres.
import type { Camera as FileCamera } from '@gltf-transform/core'
import { boundsOf } from '../../scene/bounds'
import type { Camera, SceneObject } from '../../scene/scene'
import { add, dot, normalized, scaled, subtract, type Matrix4, type Vector3 } from '../../scene/vector'
import { BadInput } from '../errors'

/**
 * Sensor width that a lens in millimetres is said for when a file gives only an angle: full frame, common practice, no
 * source.
 */
export const DEFAULT_SENSOR_WIDTH = 36

/** How far an orthographic camera steps back, in widths of what it frames: lines run together by a 400th over that. */
const STEPS_BACK = 200

/**
 * middle: what a scene stands around, or undefined for none; an orthographic camera is a long lens from far back that
 * frames just what it does at that place. Throws BadInput.
 */
export function toCamera(
  name: string,
  matrix: Matrix4,
  camera: FileCamera,
  notes: string[],
  middle: () => Vector3 | undefined,
): Camera {
  const extras = camera.getExtras() as { sensorWidth?: number }
  const sensorWidth = extras.sensorWidth && extras.sensorWidth > 0 ? extras.sensorWidth : DEFAULT_SENSOR_WIDTH
  const out = { name, matrix: withoutScale(matrix), sensorWidth, shiftX: 0, shiftY: 0 }
  if (camera.getType() === 'perspective') {
    const aspect = camera.getAspectRatio() || 1.5
    return { ...out, focalLength: sensorWidth / aspect / (2 * Math.tan(camera.getYFov() / 2)) }
  }
  const [half, up] = [Math.abs(camera.getXMag()), Math.abs(camera.getYMag())]
  if (!(half > 0 && up > 0 && half < Infinity && up < Infinity))
    throw new BadInput(`The orthographic camera “${name}” frames nothing.`)
  const eye: Vector3 = [matrix[12]!, matrix[13]!, matrix[14]!]
  const back = normalized([matrix[8]!, matrix[9]!, matrix[10]!])
  const target = middle() ?? subtract(eye, back)
  const ahead = -dot(subtract(target, eye), back)
  const distance = STEPS_BACK * 2 * half
  const place = add(eye, scaled(back, distance - ahead))
  notes.push(
    `The camera “${name}” is orthographic; it is read as a long lens from ${Math.round(distance - ahead)} m farther back.`,
  )
  return {
    ...out,
    matrix: [...out.matrix.slice(0, 12), ...place, 1],
    focalLength: (sensorWidth * distance) / (2 * half),
  }
}

/** Middle of the box that all stands in; undefined for nothing. */
export function middleOf(objects: readonly SceneObject[]): Vector3 | undefined {
  const box = boundsOf(objects)
  return box && scaled(add(box.low, box.high), 0.5)
}

function withoutScale(m: Matrix4): Matrix4 {
  const x = normalized([m[0]!, m[1]!, m[2]!])
  const y = normalized([m[4]!, m[5]!, m[6]!])
  const z = normalized([m[8]!, m[9]!, m[10]!])
  return [...x, 0, ...y, 0, ...z, 0, m[12]!, m[13]!, m[14]!, 1]
}
