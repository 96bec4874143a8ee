// Meshes of the demo, made by hand: boxes with chamfers, turned profiles, tubes along a path, flat outlines.
import { cross, normalized, subtract, type Vector3 } from '../core/scene/vector'

export interface Mesh {
  positions: number[]
  normals: number[]
  uvs: number[]
  indices: number[]
}
export const empty = (): Mesh => ({ positions: [], normals: [], uvs: [], indices: [] })

export function join(...meshes: Mesh[]): Mesh {
  const out = empty()
  for (const mesh of meshes) {
    const base = out.positions.length / 3
    // Not spread into push: long arrays would not fit the call stack
    for (const key of ['positions', 'normals', 'uvs'] as const) for (const value of mesh[key]) out[key].push(value)
    for (const index of mesh.indices) out.indices.push(base + index)
  }
  return out
}

/** A flat face, anticlockwise seen from its front; uv in metres times `scale`. */
export function face(mesh: Mesh, corners: Vector3[], scale = 1): void {
  const base = mesh.positions.length / 3
  const n = normalized(cross(subtract(corners[1]!, corners[0]!), subtract(corners[2]!, corners[0]!)))
  const along = Math.abs(n[1]) > 0.8 ? [0, 2] : Math.abs(n[0]) > 0.8 ? [2, 1] : [0, 1]
  for (const corner of corners) {
    mesh.positions.push(...corner)
    mesh.normals.push(...n)
    mesh.uvs.push(corner[along[0]!]! * scale, -corner[along[1]!]! * scale)
  }
  for (let i = 2; i < corners.length; i++) mesh.indices.push(base, base + i - 1, base + i)
}

/** A box with chamfered edges; uv in metres times `scale`. */
export function box(low: Vector3, high: Vector3, chamfer = 0.01, scale = 1): Mesh {
  const mesh = empty()
  const c = Math.min(chamfer, ...[0, 1, 2].map(i => (high[i]! - low[i]!) / 3))
  const p = (x: number, y: number, z: number, axis: number): Vector3 =>
    [0, 1, 2].map(i => {
      const side = [x, y, z][i]!
      const edge = side > 0 ? high[i]! : low[i]!
      return i === axis ? edge : edge - side * c
    }) as Vector3
  for (const axis of [0, 1, 2]) {
    for (const sign of [-1, 1]) {
      const at = (a: number, b: number): Vector3 => {
        const s = [0, 0, 0]
        s[axis] = sign
        s[(axis + 1) % 3] = a
        s[(axis + 2) % 3] = b
        return p(s[0]!, s[1]!, s[2]!, axis)
      }
      const ring = [at(-1, -1), at(1, -1), at(1, 1), at(-1, 1)]
      face(mesh, sign > 0 ? ring : ring.reverse(), scale)
    }
  }
  // Chamfers between neighbouring faces, and the corner triangles
  for (const axis of [0, 1, 2]) {
    const b = (axis + 1) % 3
    const d = (axis + 2) % 3
    for (const sb of [-1, 1]) {
      for (const sd of [-1, 1]) {
        const s = (along: number): number[] => {
          const out = [0, 0, 0]
          out[axis] = along
          out[b] = sb
          out[d] = sd
          return out
        }
        const [l, h] = [s(-1), s(1)]
        const ring = [
          p(l[0]!, l[1]!, l[2]!, b),
          p(h[0]!, h[1]!, h[2]!, b),
          p(h[0]!, h[1]!, h[2]!, d),
          p(l[0]!, l[1]!, l[2]!, d),
        ]
        face(mesh, outward(ring, low, high), scale)
      }
    }
  }
  for (const x of [-1, 1])
    for (const y of [-1, 1])
      for (const z of [-1, 1]) face(mesh, outward([p(x, y, z, 0), p(x, y, z, 1), p(x, y, z, 2)], low, high), scale)
  return mesh
}

function outward(ring: Vector3[], low: Vector3, high: Vector3): Vector3[] {
  const n = cross(subtract(ring[1]!, ring[0]!), subtract(ring[2]!, ring[0]!))
  const middle = ring[0]!.map((value, i) => value - (low[i]! + high[i]!) / 2) as Vector3
  return n[0] * middle[0] + n[1] * middle[1] + n[2] * middle[2] < 0 ? ring.reverse() : ring
}

/** A profile of (radius, height) turned about an upright axis. */
export function turned(profile: [number, number][], centre: Vector3, steps = 96, uvScale = 1): Mesh {
  const mesh = empty()
  let run = 0
  profile.forEach(([radius, height], i) => {
    const before = profile[Math.max(0, i - 1)]!
    const after = profile[Math.min(profile.length - 1, i + 1)]!
    const dr = after[0] - before[0]
    const dh = after[1] - before[1]
    const l = Math.hypot(dr, dh) || 1
    if (i > 0) run += Math.hypot(radius - before[0], height - before[1])
    for (let k = 0; k <= steps; k++) {
      const angle = (2 * Math.PI * k) / steps
      const c = Math.cos(angle)
      const s = Math.sin(angle)
      mesh.positions.push(centre[0] + radius * c, centre[1] + height, centre[2] + radius * s)
      mesh.normals.push((dh / l) * c, -dr / l, (dh / l) * s)
      mesh.uvs.push((k / steps) * uvScale, run * uvScale)
    }
  })
  const row = steps + 1
  for (let i = 0; i + 1 < profile.length; i++)
    for (let k = 0; k < steps; k++) {
      const a = i * row + k
      mesh.indices.push(a, a + row, a + 1, a + 1, a + row, a + row + 1)
    }
  return mesh
}

/** A round tube along points. */
export function tube(points: Vector3[], radius: number, sides = 10, uvScale = 1): Mesh {
  const mesh = empty()
  let run = 0
  points.forEach((point, i) => {
    const before = points[Math.max(0, i - 1)]!
    const after = points[Math.min(points.length - 1, i + 1)]!
    const along = normalized(subtract(after, before))
    const side = normalized(cross(Math.abs(along[1]) > 0.95 ? [1, 0, 0] : [0, 1, 0], along))
    const up = cross(along, side)
    if (i > 0) run += Math.hypot(...subtract(point, before))
    for (let k = 0; k <= sides; k++) {
      const angle = (2 * Math.PI * k) / sides
      const c = Math.cos(angle)
      const s = Math.sin(angle)
      const n: Vector3 = [side[0] * c + up[0] * s, side[1] * c + up[1] * s, side[2] * c + up[2] * s]
      mesh.positions.push(point[0] + n[0] * radius, point[1] + n[1] * radius, point[2] + n[2] * radius)
      mesh.normals.push(...n)
      mesh.uvs.push(k / sides, run * uvScale)
    }
  })
  const row = sides + 1
  for (let i = 0; i + 1 < points.length; i++)
    for (let k = 0; k < sides; k++) {
      const a = i * row + k
      mesh.indices.push(a, a + 1, a + row, a + 1, a + row + 1, a + row)
    }
  return mesh
}

/** A flat quad, anticlockwise seen from its front, with the picture laid on it once. */
export function quad(a: Vector3, b: Vector3, c: Vector3, d: Vector3, repeat = 1): Mesh {
  const n = normalized(cross(subtract(b, a), subtract(d, a)))
  return {
    positions: [...a, ...b, ...c, ...d],
    normals: [...n, ...n, ...n, ...n],
    uvs: [0, repeat, repeat, repeat, repeat, 0, 0, 0],
    indices: [0, 1, 2, 0, 2, 3],
  }
}

/** The faces of a net whose points stand row after row, so many fields across and down. */
export function netIndices({ indices }: Mesh, across: number, down: number): void {
  const row = across + 1
  for (let j = 0; j < down; j++)
    for (let i = 0; i < across; i++) {
      const a = j * row + i
      indices.push(a, a + row, a + 1, a + 1, a + row, a + row + 1)
    }
}

/** Level ground as a grid of cells, lifted by a function of x and z. */
export function terrain(
  x0: number,
  x1: number,
  z0: number,
  z1: number,
  nx: number,
  nz: number,
  height: (x: number, z: number) => number,
  uvScale: number,
): Mesh {
  const mesh = empty()
  const e = 0.01
  for (let j = 0; j <= nz; j++) {
    for (let i = 0; i <= nx; i++) {
      const x = x0 + ((x1 - x0) * i) / nx
      const z = z0 + ((z1 - z0) * j) / nz
      mesh.positions.push(x, height(x, z), z)
      mesh.normals.push(
        ...normalized([
          (height(x - e, z) - height(x + e, z)) / (2 * e),
          1,
          (height(x, z - e) - height(x, z + e)) / (2 * e),
        ]),
      )
      mesh.uvs.push(x * uvScale, z * uvScale)
    }
  }
  netIndices(mesh, nx, nz)
  return mesh
}
