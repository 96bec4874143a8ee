// A scene laid out in the shared memory in the form that the kernels read.
import * as L from '../../kernels/assembly/layout'
import type { Kernels } from '../engine/memory'
import type { Material, Part, PlateLight, Print, Scene, SceneObject, Texture } from '../scene/scene'
import { cross, dot, length, normalMatrix, normalized, subtract, transformDirection, transformPoint, type Vector3 } from '../scene/vector'
import { encodingOf } from '../colour/encoding'
import { LightGroups, placeLights, SHINING, type Emitter } from './lamps'
import { placeVolumes } from './air'
import { throwMap } from './throwmap'
import { ALBEDO_TABLE_SIZE, albedoTable, glassTable, sheenTable } from './albedo'
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

/** Lays the scene out. moving: the same scene a frame ago and a frame on, for motion. Throws OutOfMemory; nothing stays allocated then. */
export function compileScene(kernels: Kernels, scene: Scene, moving?: { previous: Scene; next: Scene }): CompiledScene {
  const owned: number[] = []
  const own = (pointer: number): number => { owned.push(pointer); return pointer }
  const dispose = (): void => { for (const pointer of owned.splice(0)) kernels.dispose(pointer) }
  try {
    const objects = scene.objects.filter(object => !object.absent)
    let triangles = 0, vertices = 0
    for (const object of objects) for (const part of object.parts) { triangles += part.indices.length / 3; vertices += part.positions.length / 3 }
    const record = own(kernels.allocate(L.SCENE_SIZE))
    kernels.words(record, L.SCENE_SIZE / 4).fill(0)
    const trianglePointer = own(kernels.allocate(Math.max(1, triangles) * L.TRIANGLE_STRIDE))
    const vertexPointer = own(kernels.allocate(Math.max(1, vertices) * L.VERTEX_STRIDE))
    const flagPointer = kernels.allocate(Math.max(1, triangles) * 4)
    const emitters: Emitter[] = []
    try {
      fillGeometry(kernels, scene, objects, trianglePointer, vertexPointer, flagPointer, emitters)
      const nodes = own(kernels.allocate(Math.max(1, triangles) * L.NODE_STRIDE))
      const packets = own(kernels.allocate(Math.max(1, triangles) * L.PACKET_STRIDE))
      const temporary = kernels.allocate(65536 + triangles * 36)
      kernels.exports.buildHierarchy(triangles, trianglePointer, vertexPointer, flagPointer, nodes, packets, temporary)
      kernels.dispose(temporary)
      kernels.shrink(nodes, kernels.exports.builtNodes() * L.NODE_STRIDE)
      kernels.shrink(packets, kernels.exports.builtPackets() * L.PACKET_STRIDE)
      const words = kernels.words(record, L.SCENE_SIZE / 4)
      words[L.SCENE_NODES >> 2] = nodes
      words[L.SCENE_PACKETS >> 2] = packets
      words[L.SCENE_TRIANGLES >> 2] = trianglePointer
      words[L.SCENE_VERTICES >> 2] = vertexPointer
      if (objects.some(object => object.parts.some(part => part.uvs2 || part.colours))) words[L.SCENE_EXTRA >> 2] = own(placeExtra(kernels, objects, vertices))
      words[L.SCENE_ROOT_EMPTY >> 2] = triangles === 0 ? 1 : 0
      if (moving) {
        words[L.SCENE_NEXT >> 2] = own(placesOf(kernels, objects, moving.next, vertices))
        words[L.SCENE_PREVIOUS >> 2] = own(placesOf(kernels, objects, moving.previous, vertices))
      }
    } finally { kernels.dispose(flagPointer) }

    const roles = objects.map(object => object.role === 'catcher' ? L.ROLE_CATCHER : object.role === 'holdout' ? L.ROLE_HOLDOUT : 0)
    const textures = placeTextures(kernels, scene.materials, objects, own)
    const assets: string[] = [], assetOf = objects.map(object => { const name = object.asset ?? object.name, known = assets.indexOf(name); return known < 0 ? assets.push(name) - 1 : known })
    const groups = new LightGroups()
    const groupOf = objects.map(object => object.parts.some(part => shines(scene.materials[part.material]!)) ? groups.number(object.lightGroup ?? SHINING) : 0)
    const objectWords = new Int32Array(Math.max(1, objects.length) * (L.OBJECT_STRIDE / 4)), objectFloats = new Float32Array(objectWords.buffer)
    objects.forEach((object, index) => {
      const at = index * (L.OBJECT_STRIDE / 4), prints = object.prints ?? []
      objectWords[at + (L.OBJECT_ROLE >> 2)] = roles[index]!
      objectWords[at + (L.OBJECT_FLAGS >> 2)] = (object.ofPlate && object.role !== 'object' ? L.OBJECT_PLATE : 0) | (object.letsThrough && object.role === 'catcher' ? L.OBJECT_LETS_THROUGH : 0) | (object.darkened === false ? L.OBJECT_UNDARKENED : 0)
      objectFloats[at + (L.OBJECT_MIRROR >> 2)] = object.role === 'catcher' ? object.wet?.amount ?? 0 : 0
      objectFloats[at + (L.OBJECT_MIRROR_ROUGHNESS >> 2)] = object.wet?.roughness ?? 0
      objectWords[at + (L.OBJECT_PRINT_COUNT >> 2)] = prints.length
      objectWords[at + (L.OBJECT_ASSET >> 2)] = assetOf[index]!
      objectWords[at + (L.OBJECT_GROUP >> 2)] = groupOf[index]!
      if (prints.length) objectWords[at + (L.OBJECT_PRINTS >> 2)] = own(placePrints(kernels, object, prints, textures.index, own))
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
    words[L.SCENE_LIGHT_COUNT >> 2] = lights.count
    words[L.SCENE_LIGHT_CUMULATIVE >> 2] = lights.cumulative
    words[L.SCENE_ALBEDO_TABLE >> 2] = albedo
    if (scene.materials.some(material => material.sheen)) words[L.SCENE_SHEEN_TABLE >> 2] = own(kernels.place(sheenTable()))
    if (ALBEDO_TABLE_SIZE !== 32) throw new Error('The kernels expect an albedo table of 32 x 32.')
    if (scene.volumes?.length) {
      words[L.SCENE_VOLUMES >> 2] = own(placeVolumes(kernels, scene.volumes))
      words[L.SCENE_VOLUME_COUNT >> 2] = scene.volumes.length
    }
    if (scene.environment) {
      words[L.SCENE_ENVIRONMENT_GROUP >> 2] = groups.number(scene.environment.group ?? 'environment')
      placeEnvironment(kernels, record, scene.environment, own)
    }
    if (scene.plate && objects.some(object => object.ofPlate)) {
      words[L.SCENE_PLATE_GROUP >> 2] = groups.number('plate')
      placePlate(kernels, record, scene.plate, own)
    }
    return { pointer: record, objects, materials: scene.materials, assets, lightGroups: groups.names, triangles, dispose }
  } catch (error) {
    dispose()
    throw error
  }
}

const shines = ({ emission }: Material): boolean => emission[0] + emission[1] + emission[2] > 0

function fillGeometry(kernels: Kernels, scene: Scene, objects: SceneObject[], trianglePointer: number, vertexPointer: number, flagPointer: number, emitters: Emitter[]): void {
  const triangleWords = kernels.words(trianglePointer, 0).buffer
  const tri = new Int32Array(triangleWords, trianglePointer), flags = new Int32Array(triangleWords, flagPointer)
  const out = new Float32Array(triangleWords, vertexPointer)
  let vertexBase = 0, triangle = 0
  objects.forEach((object, objectIndex) => {
    const normals = normalMatrix(object.matrix)
    const mirrored = dot(cross([object.matrix[0]!, object.matrix[1]!, object.matrix[2]!], [object.matrix[4]!, object.matrix[5]!, object.matrix[6]!]), [object.matrix[8]!, object.matrix[9]!, object.matrix[10]!]) < 0
    for (const part of object.parts) {
      const material = scene.materials[part.material]!
      const count = part.positions.length / 3
      const partNormals = part.normals ?? flatNormals(part)
      const tangents = material.normalTexture ? part.tangents ?? makeTangents(part, partNormals) : undefined
      for (let i = 0; i < count; i++) {
        const to = (vertexBase + i) * 12
        out.set(transformPoint(object.matrix, [part.positions[i * 3]!, part.positions[i * 3 + 1]!, part.positions[i * 3 + 2]!]), to)
        out.set(normalized(transformDirection(normals, [partNormals[i * 3]!, partNormals[i * 3 + 1]!, partNormals[i * 3 + 2]!])), to + 3)
        out[to + 6] = part.uvs?.[i * 2] ?? 0
        out[to + 7] = part.uvs?.[i * 2 + 1] ?? 0
        if (tangents) {
          out.set(normalized(transformDirection(object.matrix, [tangents[i * 4]!, tangents[i * 4 + 1]!, tangents[i * 4 + 2]!])), to + 8)
          out[to + 11] = tangents[i * 4 + 3]!
        } else out.fill(0, to + 8, to + 12)
      }
      const emits = shines(material)
      const flag = (material.alphaMode === 'opaque' && glassOf(material) !== L.GLASS_PANE ? 0 : L.FLAG_TRANSPARENT) | (object.hidden ? L.FLAG_HIDDEN : 0) | (object.role === 'object' ? L.FLAG_SYNTHETIC : 0) | (object.ownShadow ? L.FLAG_CHOSEN : 0) | (object.darkens === false ? L.FLAG_LIGHT : 0)
      for (let i = 0; i < part.indices.length; i += 3) {
        // A mirrored object keeps its front: two corners change places
        const a = vertexBase + part.indices[i]!, b = vertexBase + part.indices[i + (mirrored ? 2 : 1)]!, c = vertexBase + part.indices[i + (mirrored ? 1 : 2)]!
        const to = triangle * 6
        tri[to] = a; tri[to + 1] = b; tri[to + 2] = c; tri[to + 3] = objectIndex; tri[to + 4] = part.material; tri[to + 5] = -1
        flags[triangle] = flag
        if (emits) {
          const p = point(out, a), square = cross(subtract(point(out, b), p), subtract(point(out, c), p))
          const area = length(square) / 2
          if (area > 1e-12) emitters.push({ triangle, area, emission: material.emission, doubleSided: material.doubleSided, normal: normalized(square), centre: p })
        }
        triangle++
      }
      vertexBase += count
    }
  })
}

/** Second surface coordinates and colours of all vertices; white where a mesh has none. */
function placeExtra(kernels: Kernels, objects: readonly SceneObject[], vertices: number): number {
  const pointer = kernels.allocate(Math.max(1, vertices) * L.EXTRA_STRIDE), floats = kernels.floats(pointer, vertices * 3), codes = kernels.bytes(pointer, vertices * L.EXTRA_STRIDE)
  const { encode } = encodingOf('srgb'), code = (value: number): number => Math.round(Math.min(1, Math.max(0, value)) * 255)
  let at = 0
  for (const object of objects) for (const { positions, uvs2, colours } of object.parts) for (let i = 0; i < positions.length / 3; i++, at++) {
    floats[at * 3] = uvs2?.[i * 2] ?? 0
    floats[at * 3 + 1] = uvs2?.[i * 2 + 1] ?? 0
    const to = at * L.EXTRA_STRIDE + L.EXTRA_COLOUR
    for (let c = 0; c < 4; c++) codes[to + c] = !colours ? 255 : code(c < 3 ? encode!(Math.max(0, colours[i * 4 + c]!)) : colours[i * 4 + 3]!)
  }
  return pointer
}

/** Where every vertex is in another frame's scene, in this one's order; what is missing there, or has another shape, stays. */
function placesOf(kernels: Kernels, objects: readonly SceneObject[], other: Scene, vertices: number): number {
  const pointer = kernels.allocate(Math.max(1, vertices) * 12), out = kernels.floats(pointer, vertices * 3), byName = new Map(other.objects.map(object => [object.name, object]))
  let to = 0
  for (const object of objects) {
    const there = byName.get(object.name)
    object.parts.forEach((part, index) => {
      const moved = there?.parts[index], fits = moved?.positions.length === part.positions.length, positions = fits ? moved.positions : part.positions, matrix = there?.matrix ?? object.matrix
      for (let i = 0; i < positions.length; i += 3, to += 3) out.set(transformPoint(matrix, [positions[i]!, positions[i + 1]!, positions[i + 2]!]), to)
    })
  }
  return pointer
}

const point = (vertices: Float32Array, index: number): Vector3 => [vertices[index * 12]!, vertices[index * 12 + 1]!, vertices[index * 12 + 2]!]

/** Area-weighted vertex normals where a file gives none. */
function flatNormals(part: Part): Float32Array {
  const out = new Float32Array(part.positions.length)
  const at = (i: number): Vector3 => [part.positions[i * 3]!, part.positions[i * 3 + 1]!, part.positions[i * 3 + 2]!]
  for (let i = 0; i < part.indices.length; i += 3) {
    const [a, b, c] = [part.indices[i]!, part.indices[i + 1]!, part.indices[i + 2]!]
    const n = cross(subtract(at(b), at(a)), subtract(at(c), at(a)))
    for (const v of [a, b, c]) for (let k = 0; k < 3; k++) out[v * 3 + k]! += n[k]!
  }
  return out
}

/** Tangents along growing u, averaged by vertex, for normal maps of meshes without any. */
function makeTangents(part: Part, normals: Float32Array): Float32Array {
  const count = part.positions.length / 3
  const out = new Float32Array(count * 4), bi = new Float32Array(count * 3)
  const uv = part.uvs
  if (!uv) return out
  for (let i = 0; i < part.indices.length; i += 3) {
    const [a, b, c] = [part.indices[i]!, part.indices[i + 1]!, part.indices[i + 2]!]
    const du1 = uv[b * 2]! - uv[a * 2]!, dv1 = uv[b * 2 + 1]! - uv[a * 2 + 1]!, du2 = uv[c * 2]! - uv[a * 2]!, dv2 = uv[c * 2 + 1]! - uv[a * 2 + 1]!
    const determinant = du1 * dv2 - du2 * dv1
    if (Math.abs(determinant) < 1e-20) continue
    for (let k = 0; k < 3; k++) {
      const e1 = part.positions[b * 3 + k]! - part.positions[a * 3 + k]!, e2 = part.positions[c * 3 + k]! - part.positions[a * 3 + k]!
      const t = (e1 * dv2 - e2 * dv1) / determinant, s = (e2 * du1 - e1 * du2) / determinant
      for (const v of [a, b, c]) { out[v * 4 + k]! += t; bi[v * 3 + k]! += s }
    }
  }
  for (let v = 0; v < count; v++) {
    const n: Vector3 = [normals[v * 3]!, normals[v * 3 + 1]!, normals[v * 3 + 2]!], t: Vector3 = [out[v * 4]!, out[v * 4 + 1]!, out[v * 4 + 2]!]
    // glTF: bitangent = cross(normal, tangent) w, with v growing downwards
    out[v * 4 + 3] = dot(cross(n, t), [bi[v * 3]!, bi[v * 3 + 1]!, bi[v * 3 + 2]!]) < 0 ? -1 : 1
  }
  return out
}

function placeTextures(kernels: Kernels, materials: Material[], objects: SceneObject[], own: (pointer: number) => number): { pointer: number; index: (texture: Texture | undefined, srgb: boolean) => number } {
  const found: { texture: Texture; srgb: boolean }[] = []
  const index = (texture: Texture | undefined, srgb: boolean): number => {
    if (!texture) return -1
    let at = found.findIndex(entry => entry.texture === texture && entry.srgb === srgb)
    if (at < 0) at = found.push({ texture, srgb }) - 1
    return at
  }
  for (const material of materials) { index(material.baseTexture, true); index(material.emissionTexture, true); index(material.metallicRoughnessTexture, false); index(material.normalTexture, false); index(material.transmissionTexture, false) }
  for (const object of objects) for (const print of object.prints ?? []) index(print.texture, true)
  const modes = { repeat: 0, clamp: 1, mirror: 2 }
  const pixels = new Map<Uint8Array, number>()
  const words = new Int32Array(Math.max(1, found.length) * (L.TEXTURE_STRIDE / 4))
  found.forEach(({ texture, srgb }, i) => {
    if (!pixels.has(texture.pixels)) pixels.set(texture.pixels, own(kernels.place(texture.pixels)))
    const at = i * (L.TEXTURE_STRIDE / 4)
    words.set([pixels.get(texture.pixels)!, texture.width, texture.height, srgb ? 1 : 0, modes[texture.wrapS], modes[texture.wrapT], (texture.set ?? 0) | (texture.move ? 2 : 0)], at)
    if (texture.move) new Float32Array(words.buffer).set(texture.move, at + (L.TEXTURE_MOVE >> 2))
  })
  return { pointer: own(kernels.place(words)), index }
}

function placePrints(kernels: Kernels, object: SceneObject, prints: readonly Print[], texture: (texture: Texture, srgb: boolean) => number, own: (pointer: number) => number): number {
  const stride = L.PRINT_STRIDE / 4, words = new Int32Array(prints.length * stride), floats = new Float32Array(words.buffer)
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
function placePlate(kernels: Kernels, record: number, { pixels, width, height, camera }: PlateLight, own: (pointer: number) => number): void {
  const words = kernels.words(record, L.SCENE_SIZE / 4), floats = kernels.floats(record, L.SCENE_SIZE / 4), m = camera.matrix
  const tangent = camera.sensorWidth / 2 / camera.focalLength, tall = tangent * height / width, place: Vector3 = [m[12]!, m[13]!, m[14]!]
  const axis = (column: number): Vector3 => [m[column * 4]!, m[column * 4 + 1]!, m[column * 4 + 2]!]
  const row = (d: Vector3): number[] => [...d, -dot(d, place)]
  const right = row(axis(0)), up = row(axis(1)), ahead = row(axis(2)).map(value => -value)
  words[L.SCENE_PLATE >> 2] = own(kernels.place(pixels))
  words[L.SCENE_PLATE_WIDTH >> 2] = width
  words[L.SCENE_PLATE_HEIGHT >> 2] = height
  floats.set(ahead.map((w, k) => w * (0.5 - camera.shiftX / 2) + right[k]! / tangent / 2), L.SCENE_PLATE_U >> 2)
  floats.set(ahead.map((w, k) => w * (0.5 + camera.shiftY / 2) - up[k]! / tall / 2), L.SCENE_PLATE_V >> 2)
  floats.set(ahead, L.SCENE_PLATE_W >> 2)
  const mean = [0, 0, 0]
  for (let i = 0; i < width * height; i++) for (let c = 0; c < 3; c++) mean[c]! += pixels[i * 4 + c]! / (width * height)
  floats.set(mean, L.SCENE_PLATE_MEAN >> 2)
}

/** Sheets rougher than this scatter what goes through them; smoother ones are panes. */
const PANE_ROUGHNESS = 0.1
function glassOf({ transmission = 0, solid, roughness, metallicRoughnessTexture }: Material): number {
  if (!(transmission > 0)) return 0
  return solid ? L.GLASS_SOLID : roughness > PANE_ROUGHNESS || (metallicRoughnessTexture && roughness > 0) ? L.GLASS_SHEET : L.GLASS_PANE
}

function placeMaterials(kernels: Kernels, materials: Material[], texture: (texture: Texture | undefined, srgb: boolean) => number, own: (pointer: number) => number): number {
  const stride = L.MATERIAL_STRIDE / 4
  const words = new Int32Array(Math.max(1, materials.length) * stride), floats = new Float32Array(words.buffer)
  materials.forEach((material, i) => {
    const at = i * stride
    floats.set(material.baseColour, at + (L.MATERIAL_BASE >> 2))
    floats[at + (L.MATERIAL_METALLIC >> 2)] = material.metallic
    floats[at + (L.MATERIAL_ROUGHNESS >> 2)] = material.roughness
    floats.set(material.emission, at + (L.MATERIAL_EMISSION >> 2))
    words[at + (L.MATERIAL_ALPHA_MODE >> 2)] = material.alphaMode === 'opaque' ? 0 : material.alphaMode === 'mask' ? 1 : 2
    floats[at + (L.MATERIAL_CUTOFF >> 2)] = material.alphaCutoff
    floats[at + (L.MATERIAL_NORMAL_SCALE >> 2)] = material.normalScale
    words[at + (L.MATERIAL_TEXTURE_BASE >> 2)] = texture(material.baseTexture, true)
    words[at + (L.MATERIAL_TEXTURE_ROUGHNESS >> 2)] = texture(material.metallicRoughnessTexture, false)
    words[at + (L.MATERIAL_TEXTURE_NORMAL >> 2)] = texture(material.normalTexture, false)
    words[at + (L.MATERIAL_TEXTURE_EMISSION >> 2)] = texture(material.emissionTexture, true)
    words[at + (L.MATERIAL_DOUBLE_SIDED >> 2)] = material.doubleSided ? 1 : 0
    floats[at + (L.MATERIAL_TRANSMISSION >> 2)] = material.transmission ?? 0
    floats[at + (L.MATERIAL_IOR >> 2)] = Math.max(1, material.ior ?? 1.5)
    words[at + (L.MATERIAL_GLASS >> 2)] = glassOf(material)
    words[at + (L.MATERIAL_TEXTURE_TRANSMISSION >> 2)] = texture(material.transmissionTexture, false)
    if (glassOf(material) === L.GLASS_SOLID) words[at + (L.MATERIAL_GLASS_TABLE >> 2)] = own(kernels.place(glassTable(Math.max(1, material.ior ?? 1.5))))
    const index = Math.max(1, material.ior ?? 1.5), straight = ((index - 1) / (index + 1)) ** 2
    floats.set((material.specular?.colour ?? [1, 1, 1]).map(value => Math.min(1, straight * value)), at + (L.MATERIAL_SPECULAR >> 2))
    floats[at + (L.MATERIAL_SPECULAR_STRENGTH >> 2)] = material.specular?.strength ?? 1
    floats[at + (L.MATERIAL_COAT >> 2)] = material.coat?.strength ?? 0
    floats[at + (L.MATERIAL_COAT_ALPHA >> 2)] = Math.max(1e-3, (material.coat?.roughness ?? 0) ** 2)
    floats.set(material.sheen?.colour ?? [0, 0, 0], at + (L.MATERIAL_SHEEN >> 2))
    floats[at + (L.MATERIAL_SHEEN_ALPHA >> 2)] = Math.max(1e-3, (material.sheen?.roughness ?? 0) ** 2)
    floats.set(material.solid?.absorption ?? [0, 0, 0], at + (L.MATERIAL_ABSORB >> 2))
  })
  return kernels.place(words)
}
