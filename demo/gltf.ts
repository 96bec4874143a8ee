// glTF files of the demo: materials with pictures, meshes of ours, written as one .glb.
import { Document, WebIO, type Material, type Node, type Scene } from '@gltf-transform/core'
import { KHRLightsPunctual, KHRMaterialsEmissiveStrength, KHRMaterialsTransmission } from '@gltf-transform/extensions'
import { writePng, type CodedPicture } from '../core/formats/png/png'
import type { Vector3 } from '../core/scene/vector'
import type { Mesh } from './mesh'

export interface Look {
  base?: [number, number, number, number]
  metallic?: number
  rough?: number
  picture?: CodedPicture
  surface?: CodedPicture
  bumps?: CodedPicture
  alpha?: 'OPAQUE' | 'MASK' | 'BLEND'
  emission?: Vector3
  strength?: number
  double?: boolean
  /** How clear a pane is, by its red. */
  clear?: CodedPicture
}

export interface SceneMaker {
  document: Document
  scene: Scene
  material(name: string, look: Look): Material
  /** parent null: the scene itself. */
  put(name: string, mesh: Mesh, look: Material, parent: Node | null, extras?: object): Node
  write(): Promise<Uint8Array>
}

export function sceneMaker(title: string): SceneMaker {
  const document = new Document()
  const buffer = document.createBuffer()
  const scene = document.createScene(title)
  const strengths = document.createExtension(KHRMaterialsEmissiveStrength)
  const panes = document.createExtension(KHRMaterialsTransmission)
  const texture = (name: string, picture: CodedPicture) =>
    document
      .createTexture(name)
      .setMimeType('image/png')
      .setImage(new Uint8Array(writePng(picture)))
  return {
    document,
    scene,
    material(name, look) {
      const made = document
        .createMaterial(name)
        .setBaseColorFactor(look.base ?? [1, 1, 1, 1])
        .setMetallicFactor(look.metallic ?? 0)
        .setRoughnessFactor(look.rough ?? 0.6)
        .setDoubleSided(look.double ?? false)
        .setAlphaMode(look.alpha ?? 'OPAQUE')
      if (look.picture) made.setBaseColorTexture(texture(`${name} colour`, look.picture))
      if (look.surface) made.setMetallicRoughnessTexture(texture(`${name} surface`, look.surface))
      if (look.bumps) made.setNormalTexture(texture(`${name} bumps`, look.bumps))
      if (look.emission) {
        made.setEmissiveFactor(look.emission)
        made.setExtension(
          'KHR_materials_emissive_strength',
          strengths.createEmissiveStrength().setEmissiveStrength(look.strength ?? 1),
        )
      }
      if (look.clear)
        made.setExtension(
          'KHR_materials_transmission',
          panes
            .createTransmission()
            .setTransmissionFactor(1)
            .setTransmissionTexture(texture(`${name} clear`, look.clear)),
        )
      return made
    },
    put(name, mesh, look, parent, extras) {
      const accessor = (
        type: 'VEC3' | 'VEC2' | 'SCALAR',
        array: Float32Array<ArrayBuffer> | Uint32Array<ArrayBuffer>,
      ) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
      const primitive = document
        .createPrimitive()
        .setMaterial(look)
        .setIndices(accessor('SCALAR', Uint32Array.from(mesh.indices)))
        .setAttribute('POSITION', accessor('VEC3', Float32Array.from(mesh.positions)))
        .setAttribute('NORMAL', accessor('VEC3', Float32Array.from(mesh.normals)))
        .setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.from(mesh.uvs)))
      const node = document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive))
      if (extras) node.setExtras(extras as Record<string, unknown>)
      if (parent) parent.addChild(node)
      else scene.addChild(node)
      return node
    },
    write: () =>
      new WebIO()
        .registerExtensions([KHRLightsPunctual, KHRMaterialsEmissiveStrength, KHRMaterialsTransmission])
        .writeBinary(document),
  }
}
