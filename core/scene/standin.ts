// Stand-ins for real things in the plate: simple shapes with their foot on the ground (y = 0) and their middle over the
// origin.
import earcut from 'earcut'
import type { Part } from './scene'

export type StandInShape = 'box' | 'cylinder' | 'plane' | 'ball' | 'profile' | 'outline'
export interface StandIn {
  shape: StandInShape
  /** Metres: along x, y (up) and z. A ball and a cylinder take width as their diameter. */
  width: number
  height: number
  depth: number
  /** profile: radius and height from the foot up; outline: x and z of the footprint, in order round it. Metres. */
  points: [number, number][]
}
export const MAXIMUM_POINTS = 400
const ROUND = 48

class Mesh {
  positions: number[] = []
  normals: number[] = []
  uvs: number[] = []
  indices: number[] = []
  vertex(p: readonly number[], n: readonly number[], u: number, v: number): number {
    this.positions.push(...p)
    this.normals.push(...n)
    this.uvs.push(u, v)
    return this.positions.length / 3 - 1
  }
  quad(a: number, b: number, c: number, d: number): void {
    this.indices.push(a, b, c, a, c, d)
  }
  part(material: number): Part {
    return {
      positions: Float32Array.from(this.positions),
      normals: Float32Array.from(this.normals),
      uvs: Float32Array.from(this.uvs),
      indices: Uint32Array.from(this.indices),
      material,
    }
  }
}

/**
 * A line of (radius, height) turned about the upright axis; its normals point to the right of the line's way, outward
 * for one that goes up.
 */
function turned(mesh: Mesh, line: readonly (readonly [number, number])[], smooth: boolean): void {
  const along: number[] = [0]
  for (let i = 1; i < line.length; i++)
    along.push(along[i - 1]! + Math.hypot(line[i]![0] - line[i - 1]![0], line[i]![1] - line[i - 1]![1]))
  const total = along.at(-1)! || 1
  const normalOf = (i: number): [number, number] => {
    const a = line[Math.max(0, i)]!
    const b = line[Math.min(line.length - 1, i + 1)]!
    const long = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1
    return [(b[1] - a[1]) / long, -(b[0] - a[0]) / long]
  }
  for (let i = 0; i + 1 < line.length; i++) {
    const [r0, y0] = line[i]!
    const [r1, y1] = line[i + 1]!
    if (r0 < 1e-9 && r1 < 1e-9) continue
    const own = normalOf(i)
    const mixed = (k: number): [number, number] => {
      if (!smooth) return own
      const p = normalOf(Math.max(0, k - 1))
      const q = normalOf(Math.min(line.length - 2, k))
      const x = p[0] + q[0]
      const y = p[1] + q[1]
      const long = Math.hypot(x, y) || 1
      return [x / long, y / long]
    }
    const n0 = mixed(i)
    const n1 = mixed(i + 1)
    const ring: [number, number][] = []
    for (let k = 0; k <= ROUND; k++) {
      const turn = (k / ROUND) * 2 * Math.PI
      const c = Math.cos(turn)
      const s = Math.sin(turn)
      const u = k / ROUND
      ring.push([
        mesh.vertex([r0 * c, y0, -r0 * s], [n0[0] * c, n0[1], -n0[0] * s], u, 1 - along[i]! / total),
        mesh.vertex([r1 * c, y1, -r1 * s], [n1[0] * c, n1[1], -n1[0] * s], u, 1 - along[i + 1]! / total),
      ])
    }
    for (let k = 0; k < ROUND; k++) mesh.quad(ring[k]![0], ring[k + 1]![0], ring[k + 1]![1], ring[k]![1])
  }
}

/** Sides and both faces of a footprint drawn up to a height. */
function extruded(mesh: Mesh, outline: readonly (readonly [number, number])[], height: number): void {
  // Seen from above (x right, z towards one), the sides face outward when it runs counter-clockwise
  const area = outline.reduce((sum, [x, z], i) => {
    const [x1, z1] = outline[(i + 1) % outline.length]!
    return sum + x * z1 - x1 * z
  }, 0)
  const line = area > 0 ? [...outline].reverse() : [...outline]
  const count = line.length
  const faces = earcut(line.flat())
  if (!faces.length)
    throw new Error('This outline has no area: draw at least three corners that do not lie on one line.')
  const xs = line.map(p => p[0])
  const zs = line.map(p => p[1])
  const low = [Math.min(...xs), Math.min(...zs)] as const
  const wide = Math.max(1e-9, Math.max(...xs) - low[0])
  const deep = Math.max(1e-9, Math.max(...zs) - low[1])
  for (const up of [true, false]) {
    const base = mesh.positions.length / 3
    for (const [x, z] of line)
      mesh.vertex([x, up ? height : 0, z], [0, up ? 1 : -1, 0], (x - low[0]) / wide, (z - low[1]) / deep)
    for (let i = 0; i < faces.length; i += 3) {
      const [a, b, c] = [faces[i]!, faces[i + 1]!, faces[i + 2]!]
      const [ax, az] = line[a]!
      const [bx, bz] = line[b]!
      const [cx, cz] = line[c]!
      // Counter-clockwise seen from above is negative in x, z
      const seen = (bx - ax) * (cz - az) - (cx - ax) * (bz - az) < 0
      if (seen === up) mesh.indices.push(base + a, base + b, base + c)
      else mesh.indices.push(base + a, base + c, base + b)
    }
  }
  let run = 0
  for (let i = 0; i < count; i++) {
    const [x0, z0] = line[i]!
    const [x1, z1] = line[(i + 1) % count]!
    const long = Math.hypot(x1 - x0, z1 - z0)
    if (long < 1e-9) continue
    // Counter-clockwise from above: outward lies to the right of the way, (dz, -dx) mirrored by z pointing towards one
    const n = [-(z1 - z0) / long, 0, (x1 - x0) / long]
    mesh.quad(
      mesh.vertex([x0, 0, z0], n, run, 1),
      mesh.vertex([x1, 0, z1], n, run + long, 1),
      mesh.vertex([x1, height, z1], n, run + long, 0),
      mesh.vertex([x0, height, z0], n, run, 0),
    )
    run += long
  }
}

/** The triangles of a stand-in. Throws for shapes without size. */
export function standInPart({ shape, width, height, depth, points }: StandIn, material: number): Part {
  const mesh = new Mesh()
  if (shape === 'plane') {
    const x = width / 2
    const z = depth / 2
    mesh.quad(
      mesh.vertex([-x, 0, z], [0, 1, 0], 0, 1),
      mesh.vertex([x, 0, z], [0, 1, 0], 1, 1),
      mesh.vertex([x, 0, -z], [0, 1, 0], 1, 0),
      mesh.vertex([-x, 0, -z], [0, 1, 0], 0, 0),
    )
  } else if (shape === 'box')
    extruded(
      mesh,
      [
        [-width / 2, -depth / 2],
        [-width / 2, depth / 2],
        [width / 2, depth / 2],
        [width / 2, -depth / 2],
      ],
      height,
    )
  else if (shape === 'cylinder')
    turned(
      mesh,
      [
        [0, 0],
        [width / 2, 0],
        [width / 2, height],
        [0, height],
      ],
      false,
    )
  else if (shape === 'ball')
    turned(
      mesh,
      Array.from({ length: ROUND / 2 + 1 }, (_, i) => {
        const turn = (i / (ROUND / 2)) * Math.PI
        return [(Math.max(0, Math.sin(turn)) * width) / 2, ((1 - Math.cos(turn)) * width) / 2] as [number, number]
      }),
      true,
    )
  else if (shape === 'profile') {
    if (points.length < 2) throw new Error('A turned profile needs two points at least.')
    // Closed at foot and top, so that light does not come in
    const line = points.map(([r, y]) => [Math.max(0, r), y] as [number, number])
    if (line[0]![1] > line.at(-1)![1]) line.reverse()
    turned(
      mesh,
      [
        ...(line[0]![0] > 0 ? [[0, line[0]![1]] as [number, number]] : []),
        ...line,
        ...(line.at(-1)![0] > 0 ? [[0, line.at(-1)![1]] as [number, number]] : []),
      ],
      false,
    )
  } else extruded(mesh, points, height)
  if (!mesh.indices.length) throw new Error('This stand-in has no surface.')
  return mesh.part(material)
}
