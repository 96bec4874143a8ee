// Meshes of glTF nodes, and the places of their copies.
import type { Node, Primitive } from '@gltf-transform/core'
import type { InstancedMesh } from '@gltf-transform/extensions'
import type { Part } from '../../scene/scene'
import { compose, type Matrix4, type Quaternion, type Vector3 } from '../../scene/vector'
import { BadInput } from '../errors'

export function toPart(primitive: Primitive, name: string, notes: string[], material: () => number): Part | undefined {
  const mode = primitive.getMode()
  if (mode < 4) {
    notes.push(`“${name}” has points or lines, which are not rendered.`)
    return undefined
  }
  const floats = (semantic: string, components: number): Float32Array | undefined => {
    const accessor = primitive.getAttribute(semantic)
    if (!accessor) return undefined
    const count = accessor.getCount()
    const out = new Float32Array(count * components)
    const element: number[] = []
    for (let i = 0; i < count; i++) {
      accessor.getElement(i, element)
      for (let c = 0; c < components; c++) out[i * components + c] = element[c]!
    }
    return out
  }
  const positions = floats('POSITION', 3)
  if (!positions?.length) return undefined
  const bad = positions.findIndex(value => !Number.isFinite(value))
  if (bad >= 0) throw new BadInput(`Vertex ${Math.floor(bad / 3)} of “${name}” has a position that is not a number.`)
  const count = positions.length / 3
  const source = primitive.getIndices()?.getArray() ?? Uint32Array.from({ length: count }, (_, i) => i)
  for (const index of source)
    if (index >= count) throw new BadInput(`“${name}” names vertex ${index}, but has only ${count}.`)
  let indices: Uint32Array
  if (mode === 4) indices = Uint32Array.from(source.subarray(0, source.length - (source.length % 3)))
  else {
    // Strips (5) and fans (6) into single triangles
    const out: number[] = []
    for (let i = 2; i < source.length; i++) {
      if (mode === 6) out.push(source[0]!, source[i - 1]!, source[i]!)
      else out.push(source[i - 2]!, source[i & 1 ? i : i - 1]!, source[i & 1 ? i - 1 : i]!)
    }
    indices = Uint32Array.from(out)
  }
  const same = (data: Float32Array | undefined, components: number): Float32Array | undefined =>
    data && data.length === count * components ? data : undefined
  return {
    positions,
    normals: same(floats('NORMAL', 3), 3),
    uvs: same(floats('TEXCOORD_0', 2), 2),
    uvs2: same(floats('TEXCOORD_1', 2), 2),
    colours: coloursOf(floats('COLOR_0', primitive.getAttribute('COLOR_0')?.getElementSize() ?? 4), count),
    tangents: same(floats('TANGENT', 4), 4),
    indices,
    material: material(),
  }
}

/** RGBA of three or four channels a vertex. */
function coloursOf(data: Float32Array | undefined, count: number): Float32Array | undefined {
  if (!data || (data.length !== count * 3 && data.length !== count * 4)) return undefined
  if (data.length === count * 4) return data
  const out = new Float32Array(count * 4).fill(1)
  for (let i = 0; i < count; i++) for (let c = 0; c < 3; c++) out[i * 4 + c] = data[i * 3 + c]!
  return out
}

/**
 * Places of the copies of a node's mesh, in its own space (EXT_mesh_gpu_instancing); undefined where it stands once.
 */
export function copiesOf(node: Node): Matrix4[] | undefined {
  const instances = node.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing')
  if (!instances) return undefined
  const [places, turns, sizes] = ['TRANSLATION', 'ROTATION', 'SCALE'].map(name => instances.getAttribute(name))
  const count = (places ?? turns ?? sizes)?.getCount() ?? 0
  if (count > MOST_COPIES)
    throw new BadInput(`“${node.getName()}” stands in ${count} places; at most ${MOST_COPIES} are read.`)
  return Array.from({ length: count }, (_, i) =>
    compose(
      (places?.getElement(i, []) ?? [0, 0, 0]) as Vector3,
      (turns?.getElement(i, []) ?? [0, 0, 0, 1]) as Quaternion,
      (sizes?.getElement(i, []) ?? [1, 1, 1]) as Vector3,
    ),
  )
}
const MOST_COPIES = 20_000
