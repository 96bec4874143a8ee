// The scene a shot renders: the file's scene with the document's settings laid over it, at one frame.
import { kelvinToRgb } from '../colour/kelvin'
import { decodePixels, encodingOf } from '../colour/encoding'
import { readPicture, toWorking } from '../formats/picture/picture'
import { findSun, type FoundSun } from '../scene/environmentSun'
import { readGltf } from '../formats/gltf/gltf'
import type { Camera, Environment, Print, Scene, SceneObject, Texture, Volume } from '../scene/scene'
import {
  add,
  compose,
  degreesFromRotation,
  dot,
  multiply,
  normalized,
  rotationFromDegrees,
  turnAndSizes,
  scaled,
  transformPoint,
  type Matrix4,
  type Vector3,
} from '../scene/vector'
import { tripleAt, valueAt, type Animatable } from '../time/curve'
import { perSecond } from '../time/rate'
import type { LoadBlob } from '../compose/files'
import { cardObjects, type CardLook } from './cards'
import { boxOfPart } from '../scene/bounds'
import { placedScene } from './filePlace'
import type { Sight } from '../layer/layer'
import { objectsOf } from './objects'
import { inOrder, type Unplaced } from './rows'
import { lightAt, skyDirection } from './lamps'
import type {
  AirSettings,
  CameraSettings,
  EnvironmentSettings,
  ObjectSettings,
  PictureReference,
  PrintSettings,
  ShotDocument,
} from './document'

const RADIANS = Math.PI / 180
export function cameraAt(settings: CameraSettings, frame: number): Camera {
  const at = (value: Animatable): number => valueAt(value, frame)
  const matrix = rotationFromDegrees(at(settings.heading), at(settings.pitch), at(settings.bank))
  matrix[12] = at(settings.x)
  matrix[13] = at(settings.y)
  matrix[14] = at(settings.z)
  return {
    name: 'camera',
    matrix,
    focalLength: Math.max(1, at(settings.focalLength)),
    sensorWidth: Math.max(0.1, at(settings.sensorWidth)),
    shiftX: at(settings.shiftX ?? 0),
    shiftY: at(settings.shiftY ?? 0),
  }
}

/** A frame of a shot, and what its camera sees then. */
export const sightOf = ({ scene }: ShotDocument, frame: number): Sight => {
  let camera: Camera | undefined
  return { frame, camera: () => (camera ??= cameraAt(scene.camera, frame)) }
}

/** Camera settings that say what a scene's own camera says. */
export function settingsOfCamera(camera: Camera): CameraSettings {
  const { heading, tilt, bank } = degreesFromRotation(camera.matrix)
  const round = (value: number): number => Math.round(value * 1e6) / 1e6
  return {
    focalLength: round(camera.focalLength),
    sensorWidth: camera.sensorWidth,
    x: round(camera.matrix[12]!),
    y: round(camera.matrix[13]!),
    z: round(camera.matrix[14]!),
    heading: round(heading),
    pitch: round(tilt),
    bank: round(bank),
  }
}

/** Placement of an object as the document changes it: position, rotation and scale each replace those of the file. */
export function placedMatrix(object: SceneObject, settings: ObjectSettings | undefined, frame: number): Matrix4 {
  if (!settings?.position && !settings?.rotation && settings?.scale === undefined) return object.matrix
  const m = object.matrix
  const { turn: own, sizes } = turnAndSizes(m)
  const rotation = settings.rotation ? rotationFromDegrees(...tripleAt(settings.rotation, frame)) : own
  const position: Vector3 = settings.position ? tripleAt(settings.position, frame) : [m[12]!, m[13]!, m[14]!]
  const factor = settings.scale === undefined ? 1 : valueAt(settings.scale, frame)
  const out = multiply(rotation, compose([0, 0, 0], [0, 0, 0, 1], scaled(sizes, factor)))
  out[12] = position[0]
  out[13] = position[1]
  out[14] = position[2]
  return out
}

/** The file's scene as it stands in the shot at one of its frames: its time 0 is the shot's first frame. */
export function fileSceneAt(document: ShotDocument, { scene }: SceneFiles, frame: number): Scene | undefined {
  const now = scene?.at ? scene.at(Math.max(0, frame - document.frames.first) / perSecond(document.rate)) : scene
  return now && placedScene(now, document.scene.filePlace)
}

export interface SceneFiles {
  scene?: Scene
  environment?: { width: number; height: number; pixels: Float32Array }
  /** The sun found in the environment, when it is taken out. */
  sun?: FoundSun
  /** Pictures laid on objects, by blob. */
  prints?: Map<string, Texture>
  /** Of the figures that stand in the scene, at the frame, by their layers. */
  cards?: ReadonlyMap<string, CardLook>
  /** The plate at the frame, as the camera sees it: for stand-ins. */
  plate?: { width: number; height: number; pixels: Float32Array }
}

/** Reads what a document's scene is made of; the plate is handed in by who evaluates it. */
export async function loadSceneFiles(document: ShotDocument, load: LoadBlob, plain = false): Promise<SceneFiles> {
  const { file, environment, prints } = document.scene
  const files: SceneFiles = {}
  if (file) files.scene = await readGltf(await load(file.blob), {}, plain)
  if (environment) {
    const picture = await readPicture(await load(environment.blob))
    decodePixels(picture.pixels, encodingOf(environment.encoding))
    files.environment = { width: picture.width, height: picture.height, pixels: picture.pixels }
    if (environment.sunOut) files.sun = findSun(picture.pixels, picture.width, picture.height)
  }
  const laid = inOrder(prints)
  if (laid.length) {
    files.prints = new Map()
    for (const { picture } of laid)
      if (!files.prints.has(picture.blob))
        files.prints.set(picture.blob, await textureOf(await load(picture.blob), picture))
  }
  return files
}

/** What reading those files depends on. */
export const sceneFilesKey = ({ scene }: ShotDocument): string =>
  JSON.stringify([
    scene.file?.blob,
    scene.environment?.blob,
    scene.environment?.encoding,
    scene.environment?.sunOut,
    inOrder(scene.prints).map(({ picture }) => [picture.blob, picture.encoding, picture.alpha]),
  ])

/** Whether there is anything to render. */
export const hasObjects = ({ scene }: ShotDocument): boolean => !!scene.file || inOrder(scene.added).length > 0

/** Whether any stand-in takes its colour from the plate. */
export const needsPlate = ({ scene, plate }: ShotDocument): boolean =>
  !!plate && Object.values(scene.objects).some(settings => settings.ofPlate && !settings.absent)

/** Surface colours are kept as sRGB codes. */
async function textureOf(bytes: Uint8Array, reference: PictureReference): Promise<Texture> {
  const picture = await readPicture(bytes)
  const working = toWorking(picture, encodingOf(reference.encoding), reference.alpha)
  const { width, height } = picture
  const pixels = new Uint8Array(width * height * 4)
  const { encode } = encodingOf('srgb')
  for (let i = 0; i < width * height; i++) {
    const alpha = working[i * 4 + 3]!
    for (let c = 0; c < 3; c++)
      pixels[i * 4 + c] = Math.round(
        Math.min(1, Math.max(0, encode!(alpha > 0 ? working[i * 4 + c]! / alpha : 0))) * 255,
      )
    pixels[i * 4 + 3] = Math.round(Math.min(1, Math.max(0, alpha)) * 255)
  }
  return { pixels, width, height, wrapS: 'clamp', wrapT: 'clamp' }
}

/** A picture laid on an object, for the object's place in the world. */
export function printAt(settings: Unplaced<PrintSettings>, texture: Texture, matrix: Matrix4, frame: number): Print {
  const thrower = multiply(matrix, settings.matrix)
  const axis = (k: number): Vector3 => normalized([thrower[k * 4]!, thrower[k * 4 + 1]!, thrower[k * 4 + 2]!])
  const place: Vector3 = [thrower[12]!, thrower[13]!, thrower[14]!]
  const right = axis(0)
  const up = axis(1)
  const back = axis(2)
  const perspective = settings.from === 'camera'
  // The object's own scale carries its picture along
  const grown = perspective ? 1 : Math.hypot(thrower[0]!, thrower[1]!, thrower[2]!)
  const width = valueAt(settings.size, frame) * (perspective ? 2 * settings.tangent : grown)
  const tall = (width * texture.height) / texture.width
  const turn = valueAt(settings.turn, frame) * RADIANS
  const c = Math.cos(turn)
  const s = Math.sin(turn)
  const u = add(scaled(right, c), scaled(up, s))
  const v = add(scaled(up, c), scaled(right, -s))
  const row = (d: Vector3): number[] => [...d, -dot(d, place)]
  const ahead = row(scaled(back, -1))
  const across = row(u).map(
    (value, k) => value / width + (0.5 - valueAt(settings.shiftX, frame)) * (perspective ? ahead[k]! : k === 3 ? 1 : 0),
  )
  const down = row(v).map(
    (value, k) =>
      -value / tall +
      (0.5 + (valueAt(settings.shiftY, frame) * width) / tall) * (perspective ? ahead[k]! : k === 3 ? 1 : 0),
  )
  return {
    texture,
    rows: [across, down, ahead],
    from: perspective ? place : back,
    perspective,
    near: perspective ? 1e-3 : -1e6,
    far: 1e6,
    instead: settings.instead,
    roughness: settings.roughness === null ? undefined : Math.min(1, Math.max(0, valueAt(settings.roughness, frame))),
    opacity: Math.min(1, Math.max(0, valueAt(settings.opacity, frame))),
  }
}

/** Box of an object's corners in the world. */
export function worldBox(object: SceneObject, matrix: Matrix4): { low: Vector3; high: Vector3 } {
  // Not turned: the box of the mesh is enough
  if ([1, 2, 4, 6, 8, 9].every(i => matrix[i] === 0)) {
    const boxes = object.parts.map(boxOfPart)
    const ends = [0, 1, 2].map(k => {
      const a = boxes.map(({ low }) => low[k]! * matrix[k * 5]! + matrix[12 + k]!)
      const b = boxes.map(({ high }) => high[k]! * matrix[k * 5]! + matrix[12 + k]!)
      return [Math.min(...a, ...b), Math.max(...a, ...b)] as const
    })
    return { low: ends.map(([low]) => low) as Vector3, high: ends.map(([, high]) => high) as Vector3 }
  }
  const low: Vector3 = [Infinity, Infinity, Infinity]
  const high: Vector3 = [-Infinity, -Infinity, -Infinity]
  for (const part of object.parts) {
    for (let i = 0; i < part.positions.length; i += 3) {
      const p = transformPoint(matrix, [part.positions[i]!, part.positions[i + 1]!, part.positions[i + 2]!])
      for (let k = 0; k < 3; k++) {
        low[k] = Math.min(low[k]!, p[k]!)
        high[k] = Math.max(high[k]!, p[k]!)
      }
    }
  }
  return { low, high }
}

/** A medium of the shot at a frame. A box stands on its place; undefined when the thing whose body it fills is gone. */
export function volumeAt(
  settings: Unplaced<AirSettings>,
  frame: number,
  objects: readonly SceneObject[] = [],
): Volume | undefined {
  const body = settings.shape === 'thing' ? objects.find(object => object.name === settings.thing) : undefined
  if (settings.shape === 'thing' && !body) return undefined
  const at = (value: Animatable): number => valueAt(value, frame)
  const height = Math.max(1e-3, at(settings.height))
  return {
    name: settings.name,
    density: Math.LN2 / Math.max(1e-3, at(settings.half)),
    colour: tripleAt(settings.colour, frame).map(value => Math.min(1, Math.max(0, value))) as Vector3,
    forward: at(settings.forward),
    noise: Math.min(1, Math.max(0, at(settings.noise))),
    noiseSize: at(settings.noiseSize),
    seed: settings.seed,
    base: at(settings.base),
    halfHeight: Math.max(0, at(settings.halfHeight)),
    ...(settings.shape === 'box'
      ? {
          box: compose(
            [at(settings.x), at(settings.y) + height / 2, at(settings.z)],
            [0, 0, 0, 1],
            [Math.max(1e-3, at(settings.width)), height, Math.max(1e-3, at(settings.depth))],
          ),
        }
      : {}),
    ...(body ? { body: { parts: body.parts, matrix: body.matrix } } : {}),
  }
}

const share = (value: Animatable, frame: number): number => Math.min(1, Math.max(0, valueAt(value, frame)))

/** By how much an environment is turned (degrees), and what its light is multiplied by. */
export function environmentGain(
  { stops, tint, turn }: EnvironmentSettings,
  frame: number,
): { turn: number; gain: Vector3 } {
  const own = 2 ** valueAt(stops, frame)
  const green = valueAt(tint ?? 0, frame)
  const gain: Vector3 = green === 0 ? [own, own, own] : scaled(kelvinToRgb(6504, green, true), own)
  return { turn: valueAt(turn, frame), gain }
}

/** The scene to compile, with its camera. */
export function sceneAt(document: ShotDocument, files: SceneFiles, frame: number): Scene & { camera: Camera } {
  const { scene: settings } = document
  const camera = cameraAt(settings.camera, frame)
  const file = fileSceneAt(document, files, frame)
  const found = objectsOf(document, file, frame)
  const objects = found.objects.map(object => {
    const own = settings.objects[object.name]
    const matrix = placedMatrix(object, own, frame)
    const prints = inOrder(settings.prints)
      .filter(print => print.on === object.name && print.shown)
      .flatMap(print => {
        const texture = files.prints?.get(print.picture.blob)
        return texture ? [printAt(print, texture, matrix, frame)] : []
      })
    return {
      ...object,
      matrix,
      role: own?.role ?? object.role,
      hidden: own?.hidden ?? object.hidden,
      absent: own?.absent ?? object.absent,
      ofPlate: own?.ofPlate ?? object.ofPlate,
      letsThrough: own?.letsThrough ?? object.letsThrough,
      ownShadow: own?.ownShadow,
      lightGroup: own?.lightGroup?.trim() || object.lightGroup,
      darkens: own?.darkens,
      darkened: own?.darkened,
      wet:
        own?.wet === undefined
          ? undefined
          : { amount: share(own.wet, frame), roughness: share(own.wetRoughness ?? 0, frame) },
      prints,
    }
  })
  const middleOf = (name: string): Vector3 | undefined => {
    const object = objects.find(other => other.name === name)
    if (!object) return undefined
    const { low, high } = worldBox(object, object.matrix)
    return scaled(add(low, high), 0.5)
  }
  const lights = [
    ...(settings.fileLights ? (file?.lights ?? []) : []),
    ...inOrder(settings.lights)
      .filter(light => light.on)
      .map(light => ({ ...lightAt(light, frame, middleOf), group: light.group?.trim() || light.name })),
  ]
  let environment: Environment | undefined
  if (settings.environment && files.environment) {
    const { seen } = settings.environment
    const { turn: degrees, gain } = environmentGain(settings.environment, frame)
    environment = {
      ...files.environment,
      pixels: files.sun?.without ?? files.environment.pixels,
      turn: degrees,
      gain,
      seenByCamera: seen,
    }
    if (files.sun)
      lights.push({
        kind: 'sun',
        name: 'sun of the environment',
        direction: scaled(skyDirection(files.sun.azimuth + degrees, files.sun.elevation), -1),
        diameter: files.sun.diameter,
        irradiance: files.sun.irradiance.map((value, k) => value * gain[k]!) as Vector3,
      })
  }
  const cards = cardObjects(document, files.cards, frame, camera, { objects, materials: found.materials })
  return {
    objects: [...objects, ...cards.objects],
    materials: [...found.materials, ...cards.materials],
    volumes: inOrder(settings.volumes)
      .filter(entry => entry.on)
      .flatMap(entry => volumeAt(entry, frame, objects) ?? []),
    lights,
    cameras: files.scene?.cameras ?? [],
    notes: files.scene?.notes ?? [],
    environment,
    camera,
    plate: files.plate && { ...files.plate, camera },
  }
}
