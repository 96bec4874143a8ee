// Normals and tangents of meshes whose files give none.
import type { Part } from '../scene/scene'
import { cross, dot, subtract, type Vector3 } from '../scene/vector'

/** Area-weighted vertex normals where a file gives none. */
export function flatNormals(part: Part): Float32Array {
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
export function makeTangents(part: Part, normals: Float32Array): Float32Array {
  const count = part.positions.length / 3
  const out = new Float32Array(count * 4)
  const bi = new Float32Array(count * 3)
  const uv = part.uvs
  if (!uv) return out
  for (let i = 0; i < part.indices.length; i += 3) {
    const [a, b, c] = [part.indices[i]!, part.indices[i + 1]!, part.indices[i + 2]!]
    const du1 = uv[b * 2]! - uv[a * 2]!
    const dv1 = uv[b * 2 + 1]! - uv[a * 2 + 1]!
    const du2 = uv[c * 2]! - uv[a * 2]!
    const dv2 = uv[c * 2 + 1]! - uv[a * 2 + 1]!
    const determinant = du1 * dv2 - du2 * dv1
    if (Math.abs(determinant) < 1e-20) continue
    for (let k = 0; k < 3; k++) {
      const e1 = part.positions[b * 3 + k]! - part.positions[a * 3 + k]!
      const e2 = part.positions[c * 3 + k]! - part.positions[a * 3 + k]!
      const t = (e1 * dv2 - e2 * dv1) / determinant
      const s = (e2 * du1 - e1 * du2) / determinant
      for (const v of [a, b, c]) {
        out[v * 4 + k]! += t
        bi[v * 3 + k]! += s
      }
    }
  }
  for (let v = 0; v < count; v++) {
    const n: Vector3 = [normals[v * 3]!, normals[v * 3 + 1]!, normals[v * 3 + 2]!]
    const t: Vector3 = [out[v * 4]!, out[v * 4 + 1]!, out[v * 4 + 2]!]
    // glTF: bitangent = cross(normal, tangent) w, with v growing downwards
    out[v * 4 + 3] = dot(cross(n, t), [bi[v * 3]!, bi[v * 3 + 1]!, bi[v * 3 + 2]!]) < 0 ? -1 : 1
  }
  return out
}
