// The scene a shot renders: the file's scene with the document's settings laid over it, at one frame.
import { kelvinToRgb } from '../colour/kelvin'
import { decodePixels, encodingOf } from '../colour/encoding'
import { readPicture } from '../formats/picture/picture'
import { readGltf } from '../formats/gltf/gltf'
import type { Camera, Environment, Light, Scene, SceneObject } from '../scene/scene'
import { add, compose, cross, degreesFromRotation, multiply, normalized, rotationFromDegrees, scaled, subtract, type Matrix4, type Vector3 } from '../scene/vector'
import { valueAt, type Animatable } from '../time/curve'
import type { LoadBlob } from '../build/sources'
import type { CameraSettings, LightSettings, ObjectSettings, ShotDocument } from './document'

const RADIANS = Math.PI / 180
const triple = (value: [Animatable, Animatable, Animatable], frame: number): Vector3 => [valueAt(value[0], frame), valueAt(value[1], frame), valueAt(value[2], frame)]

export function cameraAt(settings: CameraSettings, frame: number): Camera {
  const at = (value: Animatable): number => valueAt(value, frame)
  const matrix = rotationFromDegrees(at(settings.heading), at(settings.pitch), at(settings.bank))
  matrix[12] = at(settings.x); matrix[13] = at(settings.y); matrix[14] = at(settings.z)
  return { name: 'camera', matrix, focalLength: Math.max(1, at(settings.focalLength)), sensorWidth: Math.max(0.1, at(settings.sensorWidth)), shiftX: 0, shiftY: 0 }
}

/** Camera settings that say what a scene's own camera says. */
export function settingsOfCamera(camera: Camera): CameraSettings {
  const { heading, tilt, bank } = degreesFromRotation(camera.matrix)
  const round = (value: number): number => Math.round(value * 1e6) / 1e6
  return { focalLength: round(camera.focalLength), sensorWidth: camera.sensorWidth, x: round(camera.matrix[12]!), y: round(camera.matrix[13]!), z: round(camera.matrix[14]!), heading: round(heading), pitch: round(tilt), bank: round(bank) }
}

/** Unit vector from the ground towards a direction of the sky: azimuth 0 is -Z, 90 is +X. */
export const skyDirection = (azimuth: number, elevation: number): Vector3 => [Math.sin(azimuth * RADIANS) * Math.cos(elevation * RADIANS), Math.sin(elevation * RADIANS), -Math.cos(azimuth * RADIANS) * Math.cos(elevation * RADIANS)]

export function lightAt(settings: LightSettings, frame: number): Light {
  const at = (value: Animatable): number => valueAt(value, frame)
  const towards = skyDirection(at(settings.azimuth), at(settings.elevation))
  const power = scaled(kelvinToRgb(at(settings.kelvin)), 2 ** at(settings.stops))
  if (settings.kind === 'sun') return { kind: 'sun', name: settings.name, direction: scaled(towards, -1), diameter: Math.max(0.05, at(settings.diameter)), irradiance: power }
  const target = triple(settings.target, frame)
  const centre = add(target, scaled(towards, Math.max(0.01, at(settings.distance))))
  const normal = normalized(subtract(target, centre))
  const u = normalized(cross(Math.abs(normal[1]) > 0.999 ? [0, 0, 1] : [0, 1, 0], normal)), v = cross(normal, u)
  return { kind: 'box', name: settings.name, centre, normal, halfU: scaled(u, Math.max(1e-3, at(settings.width)) / 2), halfV: scaled(v, Math.max(1e-3, at(settings.height)) / 2), radiance: power }
}

/** Placement of an object as the document changes it: position, rotation and scale each replace those of the file. */
export function placedMatrix(object: SceneObject, settings: ObjectSettings | undefined, frame: number): Matrix4 {
  if (!settings?.position && !settings?.rotation && settings?.scale === undefined) return object.matrix
  const m = object.matrix
  const sizes: Vector3 = [Math.hypot(m[0]!, m[1]!, m[2]!), Math.hypot(m[4]!, m[5]!, m[6]!), Math.hypot(m[8]!, m[9]!, m[10]!)]
  const own: Matrix4 = [m[0]! / sizes[0], m[1]! / sizes[0], m[2]! / sizes[0], 0, m[4]! / sizes[1], m[5]! / sizes[1], m[6]! / sizes[1], 0, m[8]! / sizes[2], m[9]! / sizes[2], m[10]! / sizes[2], 0, 0, 0, 0, 1]
  const rotation = settings.rotation ? rotationFromDegrees(...triple(settings.rotation, frame)) : own
  const position: Vector3 = settings.position ? triple(settings.position, frame) : [m[12]!, m[13]!, m[14]!]
  const factor = settings.scale === undefined ? 1 : valueAt(settings.scale, frame)
  const out = multiply(rotation, compose([0, 0, 0], [0, 0, 0, 1], scaled(sizes, factor)))
  out[12] = position[0]; out[13] = position[1]; out[14] = position[2]
  return out
}

export interface SceneFiles { scene?: Scene; environment?: { width: number; height: number; pixels: Float32Array } }

/** Reads the scene and environment of a document. */
export async function loadSceneFiles(document: ShotDocument, load: LoadBlob): Promise<SceneFiles> {
  const { file, environment } = document.scene
  const files: SceneFiles = {}
  if (file) files.scene = await readGltf(await load(file.blob))
  if (environment) {
    const picture = await readPicture(await load(environment.blob))
    decodePixels(picture.pixels, encodingOf(environment.encoding))
    files.environment = { width: picture.width, height: picture.height, pixels: picture.pixels }
  }
  return files
}

/** The scene to compile, with its camera. */
export function sceneAt(document: ShotDocument, files: SceneFiles, frame: number): Scene & { camera: Camera } {
  const { scene: settings } = document
  const base: Scene = files.scene ?? { objects: [], materials: [], lights: [], cameras: [], notes: [] }
  const objects = base.objects.map(object => {
    const own = settings.objects[object.name]
    return { ...object, matrix: placedMatrix(object, own, frame), role: own?.role ?? object.role, hidden: own?.hidden ?? object.hidden, absent: own?.absent ?? object.absent }
  })
  const lights = [...(settings.fileLights ? base.lights : []), ...settings.lights.filter(light => light.on).map(light => lightAt(light, frame))]
  let environment: Environment | undefined
  if (settings.environment && files.environment) {
    const gain = 2 ** valueAt(settings.environment.stops, frame)
    environment = { ...files.environment, turn: valueAt(settings.environment.turn, frame), gain: [gain, gain, gain], seenByCamera: settings.environment.seen }
  }
  return { ...base, objects, lights, environment, camera: cameraAt(settings.camera, frame) }
}
