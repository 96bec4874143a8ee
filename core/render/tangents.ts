// Tangents of meshes whose files give none.
import type { Part } from '../scene/scene'

/**
 * Tangents along growing u, averaged by vertex, with the handedness w of glTF 2.0: bitangent = cross(normal, tangent) w
 * points up in the normal picture, against growing v, for v runs down the picture (specification, 3.7.2.1 and 3.9.3).
 * So w is -1 where u, v turn the way the triangle does, as seen from its front, and 1 where they turn against it. w is 0
 * at vertices that triangles of both kinds share (a mirrored fold of the picture): the kernel takes the triangle's own
 * there.
 */
export function makeTangents(part: Part, uv: Float32Array | undefined): Float32Array {
  const count = part.positions.length / 3
  const out = new Float32Array(count * 4)
  if (!uv) return out
  const hands = new Int8Array(count)
  const MIXED = 2
  for (let i = 0; i < part.indices.length; i += 3) {
    const [a, b, c] = [part.indices[i]!, part.indices[i + 1]!, part.indices[i + 2]!]
    const du1 = uv[b * 2]! - uv[a * 2]!
    const dv1 = uv[b * 2 + 1]! - uv[a * 2 + 1]!
    const du2 = uv[c * 2]! - uv[a * 2]!
    const dv2 = uv[c * 2 + 1]! - uv[a * 2 + 1]!
    const determinant = du1 * dv2 - du2 * dv1
    if (Math.abs(determinant) < 1e-20) continue
    for (const v of [a, b, c]) {
      const hand = determinant > 0 ? -1 : 1
      hands[v] = !hands[v] || hands[v] === hand ? hand : MIXED
      for (let k = 0; k < 3; k++) {
        const e1 = part.positions[b * 3 + k]! - part.positions[a * 3 + k]!
        const e2 = part.positions[c * 3 + k]! - part.positions[a * 3 + k]!
        out[v * 4 + k]! += (e1 * dv2 - e2 * dv1) / determinant
      }
    }
  }
  for (let v = 0; v < count; v++) out[v * 4 + 3] = hands[v] === MIXED ? 0 : hands[v]!
  return out
}
