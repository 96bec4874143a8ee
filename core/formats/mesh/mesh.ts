// Meshes of other formats (OBJ with its materials and pictures, PLY, STL; three.js reads the geometry) and glTF in
// several files, as one .glb: from then on a scene like any other.
import { Document, type Material } from '@gltf-transform/core'
import { KHRMaterialsIOR } from '@gltf-transform/extensions'
import { Group, Mesh, type BufferGeometry, type Material as ThreeMaterial, type Object3D } from 'three'
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js'
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js'
import { STLLoader } from 'three/examples/jsm/loaders/STLLoader.js'
import { mergeVertices } from 'three/examples/jsm/utils/BufferGeometryUtils.js'
import { BadInput } from '../errors'
import { gltfIo, isGltf, readDocument } from '../gltf/gltf'
import { isJpeg } from '../jpeg/jpeg'
import { isPng } from '../png/png'
import { readMtl, type MtlMaterial } from './mtl'

export interface NamedFile {
  name: string
  bytes: Uint8Array
}
export const isMeshName = (name: string): boolean => /\.(obj|ply|stl)$/i.test(name)
const MAXIMUM_BYTES = 2 ** 30
const lastOf = (name: string): string => name.split(/[\\/]/).pop()!
const bare = (name: string): string => lastOf(name).replace(/\.\w+$/, '')

/**
 * The scene among the files, with what it needs beside it, as a .glb; and what of it is not used. Throws BadInput with
 * what is missing or wrong.
 */
export async function sceneAsGlb(
  files: readonly NamedFile[],
): Promise<{ name: string; bytes: Uint8Array; notes: string[] }> {
  const main =
    files.find(file => isMeshName(file.name)) ??
    files.find(file => /\.(glb|gltf)$/i.test(file.name)) ??
    files.find(file => isGltf(file.bytes))
  if (!main) throw new BadInput('There is no scene among these files: glTF, OBJ, PLY and STL are read.')
  if (main.bytes.length > MAXIMUM_BYTES)
    throw new BadInput(`“${main.name}” is larger than ${MAXIMUM_BYTES / 2 ** 20} MiB.`)
  const notes: string[] = []
  if (!isMeshName(main.name)) {
    if (main.bytes[0] === 0x67 && main.bytes[1] === 0x6c) return { name: main.name, bytes: main.bytes, notes }
    const document = await readDocument(
      main.bytes,
      Object.fromEntries(files.filter(file => file !== main).map(file => [lastOf(file.name), file.bytes])),
      notes,
    )
    return { name: `${bare(main.name)}.glb`, bytes: await gltfIo().writeBinary(document), notes }
  }
  const document = new Document()
  const root = /\.obj$/i.test(main.name) ? readObj(main) : readPlain(main)
  document.createBuffer()
  const scene = document.createScene(bare(main.name))
  const materials = materialsOf(document, files, main, notes)
  const seen = new Set<string>()
  let triangles = 0
  root.traverse((object: Object3D) => {
    if (!(object instanceof Mesh)) return
    const geometry = mergeVertices(object.geometry as BufferGeometry)
    const position = geometry.getAttribute('position')
    const list = (Array.isArray(object.material) ? object.material : [object.material]) as ThreeMaterial[]
    if (!position?.count) return
    for (let i = 0; i < position.array.length; i++)
      if (!Number.isFinite(position.array[i]))
        throw new BadInput(`“${main.name}” has a corner whose place is no number.`)
    const whole = geometry.index!
    const groups = geometry.groups.length ? geometry.groups : [{ start: 0, count: whole.count, materialIndex: 0 }]
    let name = object.name || bare(main.name)
    for (let count = 2; seen.has(name); count++) name = `${object.name || bare(main.name)} ${count}`
    seen.add(name)
    const mesh = document.createMesh(name)
    const attributes = ['position', 'normal', 'uv'].flatMap(key => {
      const from = geometry.getAttribute(key)
      if (!from) return []
      const array = Float32Array.from(from.array)
      // Texture coordinates run upwards in these files
      if (key === 'uv') for (let i = 1; i < array.length; i += 2) array[i] = 1 - array[i]!
      return [
        [
          { position: 'POSITION', normal: 'NORMAL', uv: 'TEXCOORD_0' }[key]!,
          document
            .createAccessor()
            .setType(key === 'uv' ? 'VEC2' : 'VEC3')
            .setArray(array)
            .setBuffer(document.getRoot().listBuffers()[0]!),
        ] as const,
      ]
    })
    for (const group of groups) {
      const count = Math.min(group.count, whole.count - group.start)
      if (count < 3) continue
      triangles += Math.floor(count / 3)
      const primitive = document
        .createPrimitive()
        .setIndices(
          document
            .createAccessor()
            .setType('SCALAR')
            .setArray(Uint32Array.from((whole.array as Uint32Array).subarray(group.start, group.start + count)))
            .setBuffer(document.getRoot().listBuffers()[0]!),
        )
        .setMaterial(materials(list[group.materialIndex ?? 0]?.name ?? ''))
      for (const [key, accessor] of attributes) primitive.setAttribute(key, accessor)
      mesh.addPrimitive(primitive)
    }
    scene.addChild(document.createNode(name).setMesh(mesh))
  })
  if (!triangles) throw new BadInput(`“${main.name}” holds no faces.`)
  return { name: `${bare(main.name)}.glb`, bytes: await gltfIo().writeBinary(document), notes }
}

function readObj(file: NamedFile): Object3D {
  try {
    return new OBJLoader().parse(new TextDecoder().decode(file.bytes))
  } catch (error) {
    throw new BadInput(`“${file.name}” cannot be read: ${(error as Error).message}`)
  }
}

/** PLY and STL: one mesh each. */
function readPlain(file: NamedFile): Object3D {
  const buffer = new Uint8Array(file.bytes).buffer
  try {
    const geometry = /\.ply$/i.test(file.name) ? new PLYLoader().parse(buffer) : new STLLoader().parse(buffer)
    if (/\.ply$/i.test(file.name)) {
      if (!geometry.index) throw new Error('it has points but no faces')
      // Scans share their corners and rarely bring normals: smooth (common practice, no source), where glTF would be flat
      if (!geometry.getAttribute('normal')) geometry.computeVertexNormals()
    }
    const mesh = new Mesh(geometry)
    mesh.name = bare(file.name)
    return new Group().add(mesh)
  } catch (error) {
    throw new BadInput(`“${file.name}” cannot be read: ${(error as Error).message}.`)
  }
}

/** Materials by name, made when first asked for. */
function materialsOf(
  document: Document,
  files: readonly NamedFile[],
  main: NamedFile,
  notes: string[],
): (name: string) => Material {
  const found = new Map<string, MtlMaterial>()
  const made = new Map<string, Material>()
  const pictures = new Map(files.map(file => [lastOf(file.name).toLowerCase(), file]))
  for (const file of files)
    if (/\.mtl$/i.test(file.name))
      for (const material of readMtl(new TextDecoder().decode(file.bytes))) found.set(material.name, material)
  if (
    /\.obj$/i.test(main.name) &&
    /^mtllib /m.test(new TextDecoder().decode(main.bytes.subarray(0, 1 << 16))) &&
    !found.size
  )
    notes.push('Its materials are in a file of their own (.mtl): drop both together to have them.')
  return name => {
    const known = made.get(name)
    if (known) return known
    const said = found.get(name)
    const out = document
      .createMaterial(name || 'surface')
      .setMetallicFactor(said?.metallic ?? 0)
      .setRoughnessFactor(said?.roughness ?? 0.6)
      .setBaseColorFactor([...(said?.colour ?? [0.6, 0.6, 0.6]), said?.opacity ?? 1] as [
        number,
        number,
        number,
        number,
      ])
      .setEmissiveFactor(said?.emission ?? [0, 0, 0])
      .setDoubleSided(true)
    if ((said?.opacity ?? 1) < 1) out.setAlphaMode('BLEND')
    if (said?.ior)
      out.setExtension('KHR_materials_ior', document.createExtension(KHRMaterialsIOR).createIOR().setIOR(said.ior))
    const picture = said?.colourPicture && pictures.get(said.colourPicture.toLowerCase())
    if (said?.colourPicture && !picture)
      notes.push(`The picture “${said.colourPicture}” of “${name}” is not among the files.`)
    if (said?.opacityPicture)
      notes.push(`The opacity picture of “${name}” is not used; put it into the alpha of its colour picture.`)
    if (picture) {
      if (isPng(picture.bytes) || isJpeg(picture.bytes))
        out.setBaseColorTexture(
          document
            .createTexture(picture.name)
            .setImage(new Uint8Array(picture.bytes))
            .setMimeType(isPng(picture.bytes) ? 'image/png' : 'image/jpeg'),
        )
      else notes.push(`The picture “${picture.name}” is neither PNG nor JPEG and is not used.`)
    }
    made.set(name, out)
    return out
  }
}
