// Meshes of a scene in the shared memory: those that stand once in one tree in the world, those that stand in several
// places once in a tree of their own, with a tree of places over all.
import * as L from '../../kernels/assembly/layout'
import { encodingOf } from '../colour/encoding'
import type { Kernels } from '../engine/memory'
import type { Material, Part, Scene, SceneObject } from '../scene/scene'
import {
  cross,
  dot,
  identity,
  inverseOf,
  length,
  normalized,
  normalMatrix,
  subtract,
  transformDirection,
  transformPoint,
  type Matrix4,
  type Vector3,
} from '../scene/vector'
import { shines, type Emitter } from './lamps'
import { glassOf } from './materials'
import { makeTangents } from './tangents'

/** Triangles that sharing a mesh must save before rays are sent through its places; below that copies are faster. */
const WORTH_SHARING = 4096

/**
 * Parts laid down together: an object in the world, or a mesh in its own space. `first`: number of its first triangle.
 */
interface Body {
  object: SceneObject
  index: number
  matrix: Matrix4
  mirrored: boolean
  first: number
  triangles: number
  vertices: number
}
interface Shared {
  body: Body
  places: { object: SceneObject; index: number }[]
}
export interface Geometry {
  triangles: number
  trianglePointer: number
  emitters: Emitter[]
}

/** The same scene at other frames: a frame ago and a frame on, and at the shot's first. */
export interface OtherFrames {
  previous?: Scene
  next?: Scene
  first?: Scene
}

/** Fills the fields of the scene record that are about geometry. Throws OutOfMemory. */
export function placeGeometry(
  kernels: Kernels,
  record: number,
  materials: readonly Material[],
  objects: readonly SceneObject[],
  own: (pointer: number) => number,
  others: OtherFrames = {},
): Geometry {
  const shapes = (
    [
      [others.previous, L.SCENE_PREVIOUS, L.SCENE_PLACES_PREVIOUS],
      [others.next, L.SCENE_NEXT, L.SCENE_PLACES_NEXT],
      [others.first, L.SCENE_REST, L.SCENE_PLACES_REST],
    ] as const
  ).flatMap(([scene, vertices, places]) =>
    scene ? [{ there: new Map(scene.objects.map(object => [object.name, object])), vertices, places }] : [],
  )
  const { single, shared } = sorted(
    materials,
    objects,
    shapes.map(({ there }) => there),
  )
  const bodies = [...single, ...shared.map(({ body }) => body)]
  let triangles = 0
  let vertices = 0
  for (const body of bodies) {
    body.first = triangles
    triangles += body.triangles
    vertices += body.vertices
  }
  const inWorld = single.reduce((sum, body) => sum + body.triangles, 0)
  const places = shared.flatMap(({ body, places }) => places.map(place => ({ ...place, body })))
  const trianglePointer = own(kernels.allocate(Math.max(1, triangles) * L.TRIANGLE_STRIDE))
  const vertexPointer = own(kernels.allocate(Math.max(1, vertices) * L.VERTEX_STRIDE))
  const emitters: Emitter[] = []
  const loose: number[] = []
  const loan = (bytes: number): number => {
    const pointer = kernels.allocate(bytes)
    loose.push(pointer)
    return pointer
  }
  try {
    const flags = loan(Math.max(1, triangles) * 4)
    let base = 0
    for (const body of bodies) {
      fill(kernels, body, materials, { triangles: trianglePointer, vertices: vertexPointer, flags, base }, emitters)
      base += body.vertices
    }
    const most = triangles + places.length + 1
    const nodes = own(kernels.allocate(most * L.NODE_STRIDE))
    const packets = own(kernels.allocate(Math.max(1, triangles) * L.PACKET_STRIDE))
    const temporary = loan(65536 + Math.max(triangles, places.length + 1) * 36)
    const build = (first: number, count: number): number =>
      kernels.exports.buildTriangles(first, count, trianglePointer, vertexPointer, flags, temporary)
    kernels.exports.beginHierarchy(nodes, packets)
    let root = -1
    if (!places.length) {
      if (inWorld) root = build(0, inWorld)
    } else root = placeAll()
    kernels.shrink(nodes, kernels.exports.builtNodes() * L.NODE_STRIDE)
    kernels.shrink(packets, kernels.exports.builtPackets() * L.PACKET_STRIDE)
    const words = kernels.words(record, L.SCENE_SIZE / 4)
    words[L.SCENE_NODES >> 2] = nodes
    words[L.SCENE_PACKETS >> 2] = packets
    words[L.SCENE_TRIANGLES >> 2] = trianglePointer
    words[L.SCENE_VERTICES >> 2] = vertexPointer
    words[L.SCENE_ROOT >> 2] = root

    /** The tree of places, of which the tree of what stands in the world is one. */
    function placeAll(): number {
      const boxes = loan((places.length + 1) * 32)
      const codes = loan((places.length + 1) * 4)
      const boxOf = (i: number): Float32Array => kernels.floats(boxes + i * 32, 8)
      const table = own(kernels.allocate(places.length * L.PLACE_STRIDE))
      const stride = L.PLACE_STRIDE / 4
      const numbers = new Map<Body, { root: number; box: Float32Array }>()
      const measure = loan(32)
      for (const { body } of shared) {
        const own = build(body.first, body.triangles)
        kernels.exports.boundsOut(measure)
        numbers.set(body, { root: own, box: kernels.floats(measure, 8).slice() })
      }
      places.forEach(({ object: { matrix }, index, body }, i) => {
        const { root: top, box } = numbers.get(body)!
        const floats = kernels.floats(table, places.length * stride)
        const words = kernels.words(table, places.length * stride)
        floats.set(rowsOf(inverseOf(matrix)), i * stride + (L.PLACE_INTO >> 2))
        floats.set(rowsOf(matrix), i * stride + (L.PLACE_OUT >> 2))
        words[i * stride + (L.PLACE_OBJECT >> 2)] = index
        words[i * stride + (L.PLACE_ROOT >> 2)] = top
        boxOf(i).set(boxAt(box, matrix))
        kernels.words(codes, places.length + 1)[i] = ~(L.PLACE_LEAF | i)
      })
      let count = places.length
      if (inWorld) {
        kernels.words(codes, count + 1)[count] = build(0, inWorld)
        kernels.exports.boundsOut(boxes + count * 32)
        count++
      }
      kernels.words(record, L.SCENE_SIZE / 4)[L.SCENE_PLACES >> 2] = table
      return kernels.exports.buildPlaces(count, boxes, codes, temporary)
    }
  } finally {
    for (const pointer of loose) kernels.dispose(pointer)
  }
  const words = kernels.words(record, L.SCENE_SIZE / 4)
  if (bodies.some(({ object }) => object.parts.some(part => part.uvs2 || part.colours)))
    words[L.SCENE_EXTRA >> 2] = own(placeExtra(kernels, bodies, vertices))
  for (const { there, vertices: standing, places: standingPlaces } of shapes) {
    kernels.words(record, L.SCENE_SIZE / 4)[standing >> 2] = own(verticesIn(kernels, single, there))
    if (places.length)
      kernels.words(record, L.SCENE_SIZE / 4)[standingPlaces >> 2] = own(
        kernels.place(
          Float32Array.from(places.flatMap(({ object }) => rowsOf(there.get(object.name)?.matrix ?? object.matrix))),
        ),
      )
  }
  return { triangles: inWorld + places.reduce((sum, { body }) => sum + body.triangles, 0), trianglePointer, emitters }
}

const count = ({ parts }: SceneObject): number => parts.reduce((sum, part) => sum + part.indices.length / 3, 0)
const turnedOver = (m: Matrix4): number =>
  dot(cross([m[0]!, m[1]!, m[2]!], [m[4]!, m[5]!, m[6]!]), [m[8]!, m[9]!, m[10]!])

/**
 * What stands by itself, and meshes that stand in enough places: of the same parts, seen alike by rays, without light
 * of their own, of one shape in the other frames too.
 */
function sorted(
  materials: readonly Material[],
  objects: readonly SceneObject[],
  shapes: readonly ReadonlyMap<string, SceneObject>[],
): { single: Body[]; shared: Shared[] } {
  const numbers = new Map<Part, number>()
  const groups = new Map<string, { object: SceneObject; index: number }[]>()
  const alone = (object: SceneObject): boolean =>
    object.parts.some(part => shines(materials[part.material]!)) ||
    !(Math.abs(turnedOver(object.matrix)) > 1e-18) ||
    shapes.some(there => {
      const other = there.get(object.name)
      return (
        other &&
        (other.parts.length !== object.parts.length ||
          other.parts.some((part, i) => part.positions !== object.parts[i]!.positions))
      )
    })
  objects.forEach((object, index) => {
    const key = alone(object)
      ? `alone ${index}`
      : JSON.stringify([
          object.parts.map(part => {
            if (!numbers.has(part)) numbers.set(part, numbers.size)
            return numbers.get(part)
          }),
          flagsOf(object),
          turnedOver(object.matrix) < 0,
        ])
    const known = groups.get(key)
    if (known) known.push({ object, index })
    else groups.set(key, [{ object, index }])
  })
  const single: Body[] = []
  const shared: Shared[] = []
  for (const places of groups.values()) {
    const { object } = places[0]!
    const triangles = count(object)
    const body = (standing: { object: SceneObject; index: number }, matrix: Matrix4): Body => ({
      ...standing,
      matrix,
      mirrored: turnedOver(standing.object.matrix) < 0,
      first: 0,
      triangles,
      vertices: object.parts.reduce((sum, part) => sum + part.positions.length / 3, 0),
    })
    if (triangles && (places.length - 1) * triangles >= WORTH_SHARING)
      shared.push({ body: body(places[0]!, identity()), places })
    else single.push(...places.map(place => body(place, place.object.matrix)))
  }
  return { single: single.sort((a, b) => a.index - b.index), shared }
}

const flagsOf = (object: SceneObject): number =>
  (object.hidden ? L.FLAG_HIDDEN : 0) |
  (object.role === 'object' ? L.FLAG_SYNTHETIC : 0) |
  (object.ownShadow ? L.FLAG_CHOSEN : 0) |
  (object.darkens === false ? L.FLAG_LIGHT : 0)

/** Three rows of four. */
const rowsOf = (m: Matrix4): number[] => [0, 1, 2].flatMap(row => [m[row]!, m[row + 4]!, m[row + 8]!, m[row + 12]!])

/**
 * Least and greatest corner of a box where a matrix takes it, a little wide: rays meet it in other roundings than the
 * mesh.
 */
function boxAt(box: Float32Array, matrix: Matrix4): number[] {
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  for (let corner = 0; corner < 8; corner++) {
    const p = transformPoint(matrix, [box[corner & 1 ? 4 : 0]!, box[corner & 2 ? 5 : 1]!, box[corner & 4 ? 6 : 2]!])
    for (let k = 0; k < 3; k++) {
      low[k] = Math.min(low[k]!, p[k]!)
      high[k] = Math.max(high[k]!, p[k]!)
    }
  }
  const margin = (k: number): number => 1e-6 * Math.max(Math.abs(low[k]!), Math.abs(high[k]!), high[k]! - low[k]!)
  return [...[0, 1, 2].map(k => low[k]! - margin(k)), 0, ...[0, 1, 2].map(k => high[k]! + margin(k)), 0]
}

function fill(
  kernels: Kernels,
  { object, index, matrix, mirrored, first }: Body,
  materials: readonly Material[],
  at: { triangles: number; vertices: number; flags: number; base: number },
  emitters: Emitter[],
): void {
  const { buffer } = kernels.memory
  const tri = new Int32Array(buffer, at.triangles)
  const flags = new Int32Array(buffer, at.flags)
  const out = new Float32Array(buffer, at.vertices)
  const normals = normalMatrix(matrix)
  let vertexBase = at.base
  let triangle = first
  for (const part of object.parts) {
    const material = materials[part.material]!
    const vertices = part.positions.length / 3
    // Without normals a mesh is flat, and tangents that it brings are not used (glTF 2.0, 3.7.2.1): normals of no length
    // stand for the triangle's own
    const partNormals = part.normals ?? new Float32Array(part.positions.length)
    const tangents = material.normalTexture
      ? ((part.normals && part.tangents) ?? makeTangents(part, material.normalTexture.set ? part.uvs2 : part.uvs))
      : undefined
    // In a mirrored mesh the bitangent is mirrored too, which cross(normal, tangent) is not
    const hand = mirrored ? -1 : 1
    for (let i = 0; i < vertices; i++) {
      const to = (vertexBase + i) * 12
      out.set(
        transformPoint(matrix, [part.positions[i * 3]!, part.positions[i * 3 + 1]!, part.positions[i * 3 + 2]!]),
        to,
      )
      out.set(
        normalized(
          transformDirection(normals, [partNormals[i * 3]!, partNormals[i * 3 + 1]!, partNormals[i * 3 + 2]!]),
        ),
        to + 3,
      )
      out[to + 6] = part.uvs?.[i * 2] ?? 0
      out[to + 7] = part.uvs?.[i * 2 + 1] ?? 0
      if (tangents) {
        out.set(
          normalized(transformDirection(matrix, [tangents[i * 4]!, tangents[i * 4 + 1]!, tangents[i * 4 + 2]!])),
          to + 8,
        )
        out[to + 11] = tangents[i * 4 + 3]! * hand
      } else out.fill(0, to + 8, to + 12)
    }
    const emits = shines(material)
    const flag =
      (material.alphaMode === 'opaque' && glassOf(material) !== L.GLASS_PANE ? 0 : L.FLAG_TRANSPARENT) | flagsOf(object)
    for (let i = 0; i < part.indices.length; i += 3) {
      // A mirrored object keeps its front: two corners change places
      const a = vertexBase + part.indices[i]!
      const b = vertexBase + part.indices[i + (mirrored ? 2 : 1)]!
      const c = vertexBase + part.indices[i + (mirrored ? 1 : 2)]!
      const to = triangle * 6
      tri[to] = a
      tri[to + 1] = b
      tri[to + 2] = c
      tri[to + 3] = index
      tri[to + 4] = part.material
      tri[to + 5] = -1
      flags[triangle] = flag
      if (emits) {
        const p = point(out, a)
        const q = point(out, b)
        const r = point(out, c)
        const square = cross(subtract(q, p), subtract(r, p))
        const area = length(square) / 2
        if (area > 1e-12)
          emitters.push({
            triangle,
            area,
            emission: material.emission,
            doubleSided: material.doubleSided,
            normal: normalized(square),
            low: [0, 1, 2].map(k => Math.min(p[k]!, q[k]!, r[k]!)) as Vector3,
            high: [0, 1, 2].map(k => Math.max(p[k]!, q[k]!, r[k]!)) as Vector3,
          })
      }
      triangle++
    }
    vertexBase += vertices
  }
}

const point = (vertices: Float32Array, index: number): Vector3 => [
  vertices[index * 12]!,
  vertices[index * 12 + 1]!,
  vertices[index * 12 + 2]!,
]

/** Second surface coordinates and colours of all vertices; white where a mesh has none. */
function placeExtra(kernels: Kernels, bodies: readonly Body[], vertices: number): number {
  const pointer = kernels.allocate(Math.max(1, vertices) * L.EXTRA_STRIDE)
  const floats = kernels.floats(pointer, vertices * 3)
  const codes = kernels.bytes(pointer, vertices * L.EXTRA_STRIDE)
  const { encode } = encodingOf('srgb')
  const code = (value: number): number => Math.round(Math.min(1, Math.max(0, value)) * 255)
  let at = 0
  for (const { object } of bodies)
    for (const { positions, uvs2, colours } of object.parts)
      for (let i = 0; i < positions.length / 3; i++, at++) {
        floats[at * 3] = uvs2?.[i * 2] ?? 0
        floats[at * 3 + 1] = uvs2?.[i * 2 + 1] ?? 0
        const to = at * L.EXTRA_STRIDE + L.EXTRA_COLOUR
        for (let c = 0; c < 4; c++)
          codes[to + c] = !colours ? 255 : code(c < 3 ? encode!(Math.max(0, colours[i * 4 + c]!)) : colours[i * 4 + 3]!)
      }
  return pointer
}

/**
 * Where every vertex in the world is in another frame, in this one's order; what is missing there, or has another
 * shape, stays.
 */
function verticesIn(kernels: Kernels, single: readonly Body[], there: ReadonlyMap<string, SceneObject>): number {
  const vertices = single.reduce((sum, body) => sum + body.vertices, 0)
  const pointer = kernels.allocate(Math.max(1, vertices) * 12)
  const out = kernels.floats(pointer, vertices * 3)
  let to = 0
  for (const { object } of single) {
    const other = there.get(object.name)
    object.parts.forEach((part, index) => {
      const moved = other?.parts[index]
      const fits = moved?.positions.length === part.positions.length
      const positions = fits ? moved.positions : part.positions
      const matrix = other?.matrix ?? object.matrix
      for (let i = 0; i < positions.length; i += 3, to += 3)
        out.set(transformPoint(matrix, [positions[i]!, positions[i + 1]!, positions[i + 2]!]), to)
    })
  }
  return pointer
}
