// Things of a scene that is not read from a file: what the demo photographs.
import type { CodedPicture } from '../core/formats/png/png'
import type { Material, Part, SceneObject, Texture } from '../core/scene/scene'
import { identity } from '../core/scene/vector'
import type { Mesh } from './mesh'

export const texture = (picture: CodedPicture, wrap: 'repeat' | 'clamp' = 'repeat'): Texture => ({
  pixels: picture.data as Uint8Array,
  width: picture.width,
  height: picture.height,
  wrapS: wrap,
  wrapT: wrap,
})
const part = (mesh: Mesh, material: number): Part => ({
  positions: Float32Array.from(mesh.positions),
  normals: Float32Array.from(mesh.normals),
  uvs: Float32Array.from(mesh.uvs),
  indices: Uint32Array.from(mesh.indices),
  material,
})
export const object = (name: string, mesh: Mesh, material: number): SceneObject => ({
  name,
  matrix: identity(),
  parts: [part(mesh, material)],
  role: 'object',
  hidden: false,
  absent: false,
})
export const surface = (change: Partial<Material> & { name: string }): Material => ({
  baseColour: [1, 1, 1, 1],
  metallic: 0,
  roughness: 0.6,
  emission: [0, 0, 0],
  alphaMode: 'opaque',
  alphaCutoff: 0.5,
  normalScale: 1,
  doubleSided: true,
  ...change,
})
