// Edges that one would draw of a mesh: where its surface folds or ends. Straight lines of the world, the longest first.
import type { Part } from './scene'
import { cross, dot, normalized, subtract, transformPoint, type Matrix4, type Vector3 } from './vector'

/** Six numbers an edge (metres in the world). degrees: folds sharper than this count. */
export function foldEdges(parts: readonly Part[], matrix: Matrix4, degrees = 25, most = 4000): Float32Array {
  const found: { a: Vector3; b: Vector3; long: number }[] = []
  const limit = Math.cos((degrees * Math.PI) / 180)
  for (const { positions, indices } of parts) {
    // Vertices at one place are one, whatever their normals and textures
    const ids = new Map<string, number>()
    const weld = new Uint32Array(positions.length / 3)
    const places: Vector3[] = []
    for (let i = 0; i < weld.length; i++) {
      const p: Vector3 = [positions[i * 3]!, positions[i * 3 + 1]!, positions[i * 3 + 2]!]
      const key = p.map(value => Math.round(value * 1e5)).join()
      let id = ids.get(key)
      if (id === undefined) {
        id = places.length
        ids.set(key, id)
        places.push(transformPoint(matrix, p))
      }
      weld[i] = id
    }
    const edges = new Map<number, { normal: Vector3; count: number; folded: boolean; a: number; b: number }>()
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [weld[indices[i]!]!, weld[indices[i + 1]!]!, weld[indices[i + 2]!]!]
      if (a === b || b === c || c === a) continue
      const normal = normalized(cross(subtract(places[b]!, places[a]!), subtract(places[c]!, places[a]!)))
      for (const [p, q] of [
        [a, b],
        [b, c],
        [c, a],
      ] as const) {
        const low = Math.min(p, q)
        const high = Math.max(p, q)
        const key = low * places.length + high
        const known = edges.get(key)
        if (!known) edges.set(key, { normal, count: 1, folded: false, a: low, b: high })
        else {
          known.count++
          known.folded ||= dot(known.normal, normal) < limit
        }
      }
    }
    for (const { count, folded, a, b } of edges.values())
      if (count !== 2 || folded) {
        const from = places[a]!
        const to = places[b]!
        found.push({ a: from, b: to, long: Math.hypot(from[0] - to[0], from[1] - to[1], from[2] - to[2]) })
      }
  }
  found.sort((p, q) => q.long - p.long)
  return Float32Array.from(found.slice(0, most).flatMap(({ a, b }) => [...a, ...b]))
}
