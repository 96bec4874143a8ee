// A scene laid out in the shared memory in the form that the kernels read.
import * as L from '../../kernels/assembly/layout'
import type { Kernels } from '../engine/memory'
import type { Material, PlateLight, Print, Scene, SceneObject, Texture } from '../scene/scene'
import { dot, type Vector3 } from '../scene/vector'
import { placeGeometry, type OtherFrames } from './geometry'
import { LightGroups, placeLights, shines, SHINING } from './lamps'
import { placeVolumes } from './air'
import { placeMaterials, placeTextures } from './materials'
import { throwMap } from './throwmap'
import { ALBEDO_TABLE_SIZE, albedoTable, sheenTable } from './albedo'
import { placeEnvironment } from './environment'

export interface CompiledScene {
  /** Pointer to the scene record. */
  pointer: number
  objects: SceneObject[]
  materials: Material[]
  /** Names of the wholes that the objects belong to, in the order of their numbers. */
  assets: string[]
  /** Names of the groups that light is told apart by, in the order of their numbers. */
  lightGroups: string[]
  triangles: number
  dispose(): void
}

/**
 * Lays the scene out. others: a frame ago and a frame on for motion, the first for places on things. Throws OutOfMemory;
 * nothing stays allocated then.
 */
export function compileScene(kernels: Kernels, scene: Scene, others?: OtherFrames): CompiledScene {
  const owned: number[] = []
  const own = (pointer: number): number => {
    owned.push(pointer)
    return pointer
  }
  const dispose = (): void => {
    for (const pointer of owned.splice(0)) kernels.dispose(pointer)
  }
  try {
    const objects = scene.objects.filter(object => !object.absent)
    const record = own(kernels.allocate(L.SCENE_SIZE))
    kernels.words(record, L.SCENE_SIZE / 4).fill(0)
    const { triangles, trianglePointer, emitters } = placeGeometry(
      kernels,
      record,
      scene.materials,
      objects,
      own,
      others,
    )

    const roles = objects.map(object =>
      object.role === 'catcher' ? L.ROLE_CATCHER : object.role === 'holdout' ? L.ROLE_HOLDOUT : 0,
    )
    const textures = placeTextures(kernels, scene.materials, objects, own)
    const assets: string[] = []
    const assetNumbers = new Map<string, number>()
    const assetOf = objects.map(object => {
      const name = object.asset ?? object.name
      if (!assetNumbers.has(name)) assetNumbers.set(name, assets.push(name) - 1)
      return assetNumbers.get(name)!
    })
    const groups = new LightGroups()
    const groupOf = objects.map(object =>
      object.parts.some(part => shines(scene.materials[part.material]!))
        ? groups.number(object.lightGroup ?? SHINING)
        : 0,
    )
    const objectWords = new Int32Array(Math.max(1, objects.length) * (L.OBJECT_STRIDE / 4))
    const objectFloats = new Float32Array(objectWords.buffer)
    objects.forEach((object, index) => {
      const at = index * (L.OBJECT_STRIDE / 4)
      const prints = object.prints ?? []
      objectWords[at + (L.OBJECT_ROLE >> 2)] = roles[index]!
      objectWords[at + (L.OBJECT_FLAGS >> 2)] =
        (object.ofPlate && object.role !== 'object' ? L.OBJECT_PLATE : 0) |
        (object.letsThrough && object.role === 'catcher' ? L.OBJECT_LETS_THROUGH : 0) |
        (object.darkened === false ? L.OBJECT_UNDARKENED : 0)
      objectFloats[at + (L.OBJECT_MIRROR >> 2)] = object.role === 'catcher' ? (object.wet?.amount ?? 0) : 0
      objectFloats[at + (L.OBJECT_MIRROR_ROUGHNESS >> 2)] = object.wet?.roughness ?? 0
      objectWords[at + (L.OBJECT_PRINT_COUNT >> 2)] = prints.length
      objectWords[at + (L.OBJECT_ASSET >> 2)] = assetOf[index]!
      objectWords[at + (L.OBJECT_GROUP >> 2)] = groupOf[index]!
      if (prints.length)
        objectWords[at + (L.OBJECT_PRINTS >> 2)] = own(placePrints(kernels, object, prints, textures.index, own))
    })
    const objectPointer = own(kernels.place(objectWords))
    const materialPointer = own(placeMaterials(kernels, scene.materials, textures.index, own))
    const lights = placeLights(kernels, scene, emitters, trianglePointer, groups, groupOf, own)
    const albedo = own(kernels.place(albedoTable()))
    const words = kernels.words(record, L.SCENE_SIZE / 4)
    words[L.SCENE_OBJECTS >> 2] = objectPointer
    words[L.SCENE_MATERIALS >> 2] = materialPointer
    words[L.SCENE_TEXTURES >> 2] = textures.pointer
    words[L.SCENE_LIGHTS >> 2] = lights.pointer
    words[L.SCENE_LIGHT_TREE >> 2] = lights.tree
    words[L.SCENE_SUN_COUNT >> 2] = lights.suns
    words[L.SCENE_LAMP_COUNT >> 2] = lights.lamps
    words[L.SCENE_ALBEDO_TABLE >> 2] = albedo
    if (scene.materials.some(material => material.sheen))
      words[L.SCENE_SHEEN_TABLE >> 2] = own(kernels.place(sheenTable()))
    if (ALBEDO_TABLE_SIZE !== 32) throw new Error('The kernels expect an albedo table of 32 x 32.')
    if (scene.volumes?.length) {
      words[L.SCENE_VOLUMES >> 2] = own(placeVolumes(kernels, scene.volumes.slice(0, L.MOST_VOLUMES), own))
      words[L.SCENE_VOLUME_COUNT >> 2] = Math.min(L.MOST_VOLUMES, scene.volumes.length)
    }
    if (scene.environment) {
      words[L.SCENE_ENVIRONMENT_GROUP >> 2] = groups.number(scene.environment.group ?? 'environment')
      placeEnvironment(kernels, record, scene.environment, own)
    }
    if (scene.plate && objects.some(object => object.ofPlate)) {
      words[L.SCENE_PLATE_GROUP >> 2] = groups.number('plate')
      placePlate(kernels, record, scene.plate, own)
    }
    return {
      pointer: record,
      objects,
      materials: scene.materials,
      assets,
      lightGroups: groups.names,
      triangles,
      dispose,
    }
  } catch (error) {
    dispose()
    throw error
  }
}

function placePrints(
  kernels: Kernels,
  object: SceneObject,
  prints: readonly Print[],
  texture: (texture: Texture, srgb: boolean) => number,
  own: (pointer: number) => number,
): number {
  const stride = L.PRINT_STRIDE / 4
  const words = new Int32Array(prints.length * stride)
  const floats = new Float32Array(words.buffer)
  prints.forEach((print, i) => {
    const at = i * stride
    ;[L.PRINT_U, L.PRINT_V, L.PRINT_W].forEach((field, row) => floats.set(print.rows[row]!, at + (field >> 2)))
    floats.set(print.from, at + (L.PRINT_FROM >> 2))
    words[at + (L.PRINT_PERSPECTIVE >> 2)] = print.perspective ? 1 : 0
    floats[at + (L.PRINT_NEAR >> 2)] = print.near
    floats[at + (L.PRINT_FAR >> 2)] = print.far
    words[at + (L.PRINT_TEXTURE >> 2)] = texture(print.texture, true)
    words[at + (L.PRINT_INSTEAD >> 2)] = print.instead ? 1 : 0
    floats[at + (L.PRINT_ROUGHNESS >> 2)] = print.roughness ?? -1
    floats[at + (L.PRINT_OPACITY >> 2)] = print.opacity
    const { nearest, bias } = throwMap(object, print, L.PRINT_CELLS)
    words[at + (L.PRINT_NEAREST >> 2)] = own(kernels.place(nearest))
    floats[at + (L.PRINT_BIAS >> 2)] = bias
  })
  return kernels.place(words)
}

/** The plate with the way from a place of the world to its pixels. */
function placePlate(
  kernels: Kernels,
  record: number,
  { pixels, width, height, camera }: PlateLight,
  own: (pointer: number) => number,
): void {
  const words = kernels.words(record, L.SCENE_SIZE / 4)
  const floats = kernels.floats(record, L.SCENE_SIZE / 4)
  const m = camera.matrix
  const tangent = camera.sensorWidth / 2 / camera.focalLength
  const tall = (tangent * height) / width
  const place: Vector3 = [m[12]!, m[13]!, m[14]!]
  const axis = (column: number): Vector3 => [m[column * 4]!, m[column * 4 + 1]!, m[column * 4 + 2]!]
  const row = (d: Vector3): number[] => [...d, -dot(d, place)]
  const right = row(axis(0))
  const up = row(axis(1))
  const ahead = row(axis(2)).map(value => -value)
  words[L.SCENE_PLATE >> 2] = own(kernels.place(pixels))
  words[L.SCENE_PLATE_WIDTH >> 2] = width
  words[L.SCENE_PLATE_HEIGHT >> 2] = height
  floats.set(
    ahead.map((w, k) => w * (0.5 - camera.shiftX / 2) + right[k]! / tangent / 2),
    L.SCENE_PLATE_U >> 2,
  )
  floats.set(
    ahead.map((w, k) => w * (0.5 + camera.shiftY / 2) - up[k]! / tall / 2),
    L.SCENE_PLATE_V >> 2,
  )
  floats.set(ahead, L.SCENE_PLATE_W >> 2)
  const mean = [0, 0, 0]
  for (let i = 0; i < width * height; i++) for (let c = 0; c < 3; c++) mean[c]! += pixels[i * 4 + c]! / (width * height)
  floats.set(mean, L.SCENE_PLATE_MEAN >> 2)
}
