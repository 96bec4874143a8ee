// What a picture thrown onto a thing meets first: nearest distances over the picture, so that it does not lie a second
// time on what stands behind.
import type { Print, SceneObject } from '../scene/scene'
import { transformPoint } from '../scene/vector'

/**
 * Nearest metres along the throw over size x size places of the picture (1e30 where the thing is not), and how far
 * behind still counts as the same.
 */
export function throwMap(
  object: SceneObject,
  { rows, perspective, near }: Print,
  size: number,
): { nearest: Float32Array; bias: number } {
  const nearest = new Float32Array(size * size).fill(1e30)
  let low = Infinity
  let high = -Infinity
  for (const { positions, indices } of object.parts) {
    // u and v in cells, and the metres (their inverse where they are divided by: that is what is straight across a
    // face)
    const count = positions.length / 3
    const u = new Float64Array(count)
    const v = new Float64Array(count)
    const w = new Float64Array(count)
    for (let i = 0; i < count; i++) {
      const p = transformPoint(object.matrix, [positions[i * 3]!, positions[i * 3 + 1]!, positions[i * 3 + 2]!])
      const [a, b, c] = rows.map(row => row[0]! * p[0] + row[1]! * p[1] + row[2]! * p[2] + row[3]!) as [
        number,
        number,
        number,
      ]
      u[i] = (perspective ? a / c : a) * size
      v[i] = (perspective ? b / c : b) * size
      w[i] = c
      low = Math.min(low, c)
      high = Math.max(high, c)
    }
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [indices[i]!, indices[i + 1]!, indices[i + 2]!]
      if (w[a]! < near || w[b]! < near || w[c]! < near) continue
      const x0 = Math.max(0, Math.floor(Math.min(u[a]!, u[b]!, u[c]!)))
      const x1 = Math.min(size - 1, Math.floor(Math.max(u[a]!, u[b]!, u[c]!)))
      const y0 = Math.max(0, Math.floor(Math.min(v[a]!, v[b]!, v[c]!)))
      const y1 = Math.min(size - 1, Math.floor(Math.max(v[a]!, v[b]!, v[c]!)))
      const area = (u[b]! - u[a]!) * (v[c]! - v[a]!) - (u[c]! - u[a]!) * (v[b]! - v[a]!)
      if (Math.abs(area) < 1e-12) continue
      const wa = perspective ? 1 / w[a]! : w[a]!
      const wb = perspective ? 1 / w[b]! : w[b]!
      const wc = perspective ? 1 / w[c]! : w[c]!
      for (let y = y0; y <= y1; y++) {
        for (let x = x0; x <= x1; x++) {
          const px = x + 0.5
          const py = y + 0.5
          const s = ((px - u[a]!) * (v[c]! - v[a]!) - (u[c]! - u[a]!) * (py - v[a]!)) / area
          const t = ((u[b]! - u[a]!) * (py - v[a]!) - (px - u[a]!) * (v[b]! - v[a]!)) / area
          if (s < 0 || t < 0 || s + t > 1) continue
          const straight = wa + (wb - wa) * s + (wc - wa) * t
          const metres = perspective ? 1 / straight : straight
          const at = y * size + x
          if (metres < nearest[at]!) nearest[at] = metres
        }
      }
    }
  }
  // Faces seen at a slant differ within a cell: a little of the thing's depth is let pass
  return { nearest, bias: Math.max(1e-4, (high - low) * 0.04) }
}
