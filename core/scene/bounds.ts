// How large things are, and where.
import type { Part, SceneObject } from './scene'
import { transformPoint, type Vector3 } from './vector'

export interface Box {
  low: Vector3
  high: Vector3
}
/** A part is measured once, however often it stands. */
const measured = new WeakMap<Part, Box>()

/** Box of a mesh in its own space. */
export function boxOfPart(part: Part): Box {
  const known = measured.get(part)
  if (known) return known
  const box: Box = { low: [Infinity, Infinity, Infinity], high: [-Infinity, -Infinity, -Infinity] }
  const { positions } = part
  for (let i = 0; i < positions.length; i++) {
    const k = i % 3
    if (positions[i]! < box.low[k]!) box.low[k] = positions[i]!
    if (positions[i]! > box.high[k]!) box.high[k] = positions[i]!
  }
  measured.set(part, box)
  return box
}

/**
 * The box along the axes of the world that objects stand in; undefined for none. A turned object counts by the corners
 * of its own box.
 */
export function boundsOf(objects: readonly SceneObject[]): Box | undefined {
  const box: Box = { low: [Infinity, Infinity, Infinity], high: [-Infinity, -Infinity, -Infinity] }
  for (const { parts, matrix } of objects)
    for (const part of parts) {
      if (!part.positions.length) continue
      const { low, high } = boxOfPart(part)
      for (let corner = 0; corner < 8; corner++) {
        const p = transformPoint(matrix, [
          corner & 1 ? high[0] : low[0],
          corner & 2 ? high[1] : low[1],
          corner & 4 ? high[2] : low[2],
        ])
        for (let k = 0; k < 3; k++) {
          box.low[k] = Math.min(box.low[k]!, p[k]!)
          box.high[k] = Math.max(box.high[k]!, p[k]!)
        }
      }
    }
  return box.low[0] <= box.high[0] ? box : undefined
}
