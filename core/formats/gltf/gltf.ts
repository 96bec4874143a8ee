// glTF 2.0 scenes by @gltf-transform/core, into Scene. What is not used is listed in the scene's notes.
import { WebIO, type Document, type Node, type Primitive } from '@gltf-transform/core'
import {
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsVolume,
  KHRMeshQuantization,
  KHRMaterialsUnlit,
  KHRTextureBasisu,
  KHRTextureTransform,
  type Light as PunctualLight,
} from '@gltf-transform/extensions'
import { MeshoptDecoder } from 'meshoptimizer/decoder'
import type { Light, Part, Role, Scene } from '../../scene/scene'
import {
  multiply,
  identity,
  transformDirection,
  transformPoint,
  normalized,
  type Matrix4,
  type Vector3,
} from '../../scene/vector'
import { BadInput } from '../errors'
import { middleOf, toCamera } from './camera'
import { dracoDecoder, ktx2Decoder } from './codecs'
import { readMaterials, type UnpackKtx2 } from './material'
import { copiesOf, toPart } from './part'
import { durationOf, Pose } from './pose'

const MAXIMUM_TRIANGLES = 20_000_000

export const isGltf = (bytes: Uint8Array): boolean => isGlb(bytes) || looksLikeGltfJson(bytes)
const isGlb = (bytes: Uint8Array): boolean =>
  bytes.length > 12 && bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46
const looksLikeGltfJson = (bytes: Uint8Array): boolean => {
  const head = new TextDecoder().decode(bytes.subarray(0, 4096)).trimStart()
  return (
    head.startsWith('{') &&
    new TextDecoder().decode(bytes.subarray(0, Math.min(bytes.length, 1 << 24))).includes('"asset"')
  )
}

/** Reads a .glb, or a .gltf whose buffers are embedded or given by name. Throws BadInput. */
/** plain: surfaces without their pictures, for who asks only where things are and what shines. */
export async function readGltf(
  bytes: Uint8Array,
  files: Record<string, Uint8Array> = {},
  plain = false,
): Promise<Scene> {
  const notes: string[] = []
  const document = await readDocument(bytes, files, notes)
  const packed = document
    .getRoot()
    .listExtensionsUsed()
    .some(extension => extension.extensionName === KHRTextureBasisu.EXTENSION_NAME)
  return toScene(document, notes, packed && !plain ? await ktx2Decoder() : undefined, plain)
}

const EXTENSIONS = [
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsVolume,
  KHRMeshQuantization,
  KHRMaterialsUnlit,
  KHRTextureBasisu,
  KHRTextureTransform,
]

/** Reads and writes glTF with the extensions that are understood here. */
export const gltfIo = (): WebIO =>
  new WebIO().registerExtensions(EXTENSIONS).registerDependencies({ 'meshopt.decoder': MeshoptDecoder })

const readyFor = async (json: GltfJson, io: WebIO): Promise<void> => {
  if (json.extensionsUsed?.includes(KHRDracoMeshCompression.EXTENSION_NAME))
    io.registerDependencies({ 'draco3d.decoder': await dracoDecoder() })
}

export async function readDocument(
  bytes: Uint8Array,
  files: Record<string, Uint8Array>,
  notes: string[],
): Promise<Document> {
  const io = gltfIo()
  await MeshoptDecoder.ready
  try {
    if (isGlb(bytes)) {
      const said = new DataView(bytes.buffer, bytes.byteOffset).getUint32(8, true)
      if (said > bytes.length) throw new BadInput(`it is cut off: ${bytes.length} of ${said} bytes are there`)
      const json = glbJson(bytes)
      checkJson(json, notes, bytes.length)
      await readyFor(json, io)
      return await io.readBinary(new Uint8Array(bytes))
    } else {
      const json = JSON.parse(new TextDecoder().decode(bytes))
      checkJson(
        json,
        notes,
        Object.values(files).reduce((sum, file) => sum + file.length, bytes.length),
      )
      await readyFor(json, io)
      const resources: Record<string, Uint8Array<ArrayBuffer>> = {}
      for (const buffer of [...(json.buffers ?? []), ...(json.images ?? [])]) {
        const uri: string | undefined = buffer.uri
        if (!uri) continue
        if (uri.startsWith('data:')) {
          resources[uri] = fromDataUri(uri)
          continue
        }
        // What is dropped comes without its folder
        const name = decodeURIComponent(uri)
        const file = files[name] ?? files[name.split('/').pop()!]
        if (!file) throw new BadInput(`it needs the file “${uri}” beside it; drop both together, or use a .glb`)
        resources[uri] = new Uint8Array(file)
      }
      return await io.readJSON({ json, resources })
    }
  } catch (error) {
    throw new BadInput(`This glTF scene cannot be read: ${(error as Error).message.split('\n')[0]}.`)
  }
}

function fromDataUri(uri: string): Uint8Array<ArrayBuffer> {
  const comma = uri.indexOf(',')
  const text = atob(uri.slice(comma + 1))
  return Uint8Array.from(text, character => character.charCodeAt(0))
}

function glbJson(bytes: Uint8Array): GltfJson {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const length = view.getUint32(12, true)
  if (view.getUint32(16, true) !== 0x4e4f534a || 20 + length > bytes.length)
    throw new BadInput('its first chunk is not JSON')
  return JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length)))
}

interface GltfJson {
  nodes?: { children?: number[]; mesh?: number; camera?: number; skin?: number; weights?: number[] }[]
  accessors?: {
    bufferView?: number
    byteOffset?: number
    count: number
    componentType: number
    type: string
    sparse?: unknown
  }[]
  bufferViews?: { buffer: number; byteOffset?: number; byteLength: number; byteStride?: number }[]
  buffers?: { byteLength: number; uri?: string }[]
  images?: { uri?: string }[]
  meshes?: unknown[]
  animations?: unknown[]
  skins?: unknown[]
  extensionsUsed?: string[]
  extensionsRequired?: string[]
}

const COMPONENT_BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 }
const COMPONENTS: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 }
/** Bytes that a byte of a packed file becomes at most, and what any file may claim. */
const MOST_UNPACKED = 1000
const LEAST_CLAIM = 1 << 20
const KNOWN = new Set<string>(EXTENSIONS.map(extension => extension.EXTENSION_NAME))

/**
 * What the reader would trip over or run away with: references, sizes, cycles. Collects notes about what is not used.
 */
function checkJson(json: GltfJson, notes: string[], fileBytes: number): void {
  // Packed meshes have accessors and buffers without bytes of their own, and so may claim anything
  let claimed = 0
  const claim = (bytes: number, what: string): void => {
    claimed += bytes
    if (claimed > Math.max(LEAST_CLAIM, fileBytes * MOST_UNPACKED))
      throw new BadInput(`${what} claims far more values than a file of ${fileBytes} bytes can hold`)
  }
  for (const [index, accessor] of (json.accessors ?? []).entries()) {
    const size = (COMPONENT_BYTES[accessor.componentType] ?? 0) * (COMPONENTS[accessor.type] ?? 0)
    if (!size || !Number.isInteger(accessor.count) || accessor.count < 0)
      throw new BadInput(`accessor ${index} has no valid type or count`)
    if (accessor.bufferView === undefined) {
      claim(accessor.count * size, `accessor ${index}`)
      continue
    }
    const view = json.bufferViews?.[accessor.bufferView]
    if (!view) throw new BadInput(`accessor ${index} points to buffer view ${accessor.bufferView}, which is not there`)
    const end =
      (accessor.byteOffset ?? 0) + (accessor.count ? (accessor.count - 1) * (view.byteStride ?? size) + size : 0)
    if (end > view.byteLength)
      throw new BadInput(`accessor ${index} reaches ${end} bytes into a buffer view of ${view.byteLength}`)
  }
  for (const [index, { uri, byteLength }] of (json.buffers ?? []).entries())
    if (uri === undefined && byteLength > fileBytes) claim(byteLength, `buffer ${index}`)
  for (const [index, view] of (json.bufferViews ?? []).entries()) {
    const buffer = json.buffers?.[view.buffer]
    if (!buffer || (view.byteOffset ?? 0) + view.byteLength > buffer.byteLength)
      throw new BadInput(`buffer view ${index} lies outside its buffer`)
  }
  const nodes = json.nodes ?? []
  const state = new Uint8Array(nodes.length)
  const visit = (index: number, depth: number): void => {
    if (!nodes[index]) throw new BadInput(`node ${index} is named as a child but is not there`)
    if (depth > 512) throw new BadInput('its nodes are nested more than 512 deep')
    if (state[index] === 1) throw new BadInput(`node ${index} is its own ancestor`)
    if (state[index] === 2) return
    state[index] = 1
    for (const child of nodes[index]!.children ?? []) visit(child, depth + 1)
    state[index] = 2
  }
  for (let index = 0; index < nodes.length; index++) visit(index, 0)
  for (const name of json.extensionsRequired ?? [])
    if (!KNOWN.has(name)) throw new BadInput(`it requires the extension ${name}, which Northmist does not read yet`)
  for (const name of json.extensionsUsed ?? []) if (!KNOWN.has(name)) notes.push(`The extension ${name} is not used.`)
}

const toRole = (value: unknown): Role => (value === 'catcher' || value === 'holdout' ? value : 'object')

function toScene(document: Document, notes: string[], ktx2: UnpackKtx2 | undefined, plain: boolean): Scene {
  const root = document.getRoot()
  const materials = readMaterials(root, notes, ktx2, plain)
  const duration = durationOf(root)
  const known = new Map<Primitive, Part | undefined>()
  const first = build(0, notes)
  return duration > 0 ? { ...first, duration, at: seconds => build(seconds, []) } : first

  function build(seconds: number, said: string[]): Scene {
    const scene: Scene = { objects: [], materials, lights: [], cameras: [], notes }
    const pose = new Pose(root, seconds)
    const fallback = (): number => {
      let index = materials.findIndex(material => material.name === 'default')
      if (index < 0)
        index =
          materials.push({
            name: 'default',
            baseColour: [1, 1, 1, 1],
            metallic: 1,
            roughness: 1,
            emission: [0, 0, 0],
            alphaMode: 'opaque',
            alphaCutoff: 0.5,
            normalScale: 1,
            doubleSided: false,
          }) - 1
      return index
    }
    const names = new Set<string>()
    const counts = new Map<string, number>()
    const unique = (said: string): string => {
      // What plain objects bring themselves is no name: things are kept by theirs
      const wanted = said in Object.prototype ? `${said} thing` : said
      let name = wanted
      // Goes on where it stopped: thousands of nodes may have one name
      let count = counts.get(wanted) ?? 2
      for (; names.has(name); count++) name = `${wanted} ${count}`
      counts.set(wanted, count)
      names.add(name)
      return name
    }
    const looks: (() => void)[] = []
    // A mesh counts once, wherever it stands
    let triangles = 0
    const counted = new Set<Part>()
    const visit = (node: Node, parent: Matrix4, asset: string): void => {
      const matrix = multiply(parent, pose.local(node))
      if (matrix.some(value => !Number.isFinite(value)))
        throw new BadInput(`The place of “${node.getName()}” is not a number.`)
      const mesh = node.getMesh()
      if (mesh) {
        const name = unique(node.getName() || mesh.getName() || 'object')
        const parts: Part[] = []
        for (const primitive of mesh.listPrimitives()) {
          // Read once for all nodes and times: meshes that stand in several places are shared
          if (!known.has(primitive))
            known.set(
              primitive,
              toPart(primitive, name, notes, () =>
                primitive.getMaterial() ? root.listMaterials().indexOf(primitive.getMaterial()!) : fallback(),
              ),
            )
          const part = known.get(primitive)
          if (part) {
            const posed = pose.deformed(part, primitive, node, matrix)
            parts.push(posed)
            if (!counted.has(posed)) {
              counted.add(posed)
              triangles += posed.indices.length / 3
            }
          }
          if (triangles > MAXIMUM_TRIANGLES)
            throw new BadInput(`This scene has more than ${MAXIMUM_TRIANGLES / 1e6} million triangles.`)
        }
        const extras = node.getExtras() as { role?: unknown; hidden?: unknown }
        const copies = copiesOf(node)
        if (parts.length && !copies)
          scene.objects.push({
            name,
            matrix,
            parts,
            role: toRole(extras.role),
            hidden: extras.hidden === true,
            absent: false,
            asset: asset || name,
          })
        // Copies share the mesh
        if (parts.length)
          for (const [i, copy] of (copies ?? []).entries())
            scene.objects.push({
              name: i === 0 ? name : unique(`${name} ${i + 1}`),
              matrix: multiply(matrix, copy),
              parts,
              role: toRole(extras.role),
              hidden: extras.hidden === true,
              absent: false,
              asset: asset || name,
            })
      }
      const camera = node.getCamera()
      if (camera) {
        const name = node.getName() || camera.getName() || 'camera'
        // What an orthographic one looks at is known when all has been read
        looks.push(() => scene.cameras.push(toCamera(name, matrix, camera, said, () => middleOf(scene.objects))))
      }
      const light = node.getExtension<PunctualLight>('KHR_lights_punctual')
      if (light) scene.lights.push(toLight(light, unique(node.getName() || light.getName() || 'light'), matrix))
      for (const child of node.listChildren()) visit(child, matrix, asset)
    }
    const top = root.getDefaultScene() ?? root.listScenes()[0]
    if (!top) throw new BadInput('This glTF file has no scene in it.')
    for (const node of top.listChildren()) visit(node, identity(), node.getName())
    for (const look of looks) look()
    scene.camera = scene.cameras[0]
    return scene
  }
}

function toLight(light: PunctualLight, name: string, matrix: Matrix4): Light {
  const [r, g, b] = light.getColor()
  // glTF gives lux and candela; 683 lm/W at the peak of the eye, read as plain watts of white as common practice, no
  // source
  const strength = light.getIntensity()
  const colour: Vector3 = [r * strength, g * strength, b * strength]
  const direction = normalized(transformDirection(matrix, [0, 0, -1]))
  const position = transformPoint(matrix, [0, 0, 0])
  if (light.getType() === 'directional') return { kind: 'sun', name, direction, diameter: 0.53, irradiance: colour }
  if (light.getType() === 'spot')
    return {
      kind: 'spot',
      name,
      position,
      direction,
      intensity: colour,
      inner: (light.getInnerConeAngle() * 180) / Math.PI,
      outer: (light.getOuterConeAngle() * 180) / Math.PI,
    }
  return { kind: 'point', name, position, intensity: colour }
}
