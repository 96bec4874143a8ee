// Triangles as they come from files made what they were modelled as: points that several triangles share are one
// point, and two triangles that halve a four-sided face are that face.
import type { Part } from './scene'

/** Faces of any number of corners. */
export interface Polygons {
  /** Metres, three a point. */
  points: Float64Array
  /** Where each face's corners begin; one more at the end. */
  starts: Int32Array
  /** The point of each corner. */
  corners: Int32Array
  /** The part that each face is of. */
  parts: Int32Array
  /** What lies on each corner: so many numbers, see `layoutOf`. */
  width: number
  values: Float32Array
}

/** What a part may have on each vertex, beside normals and tangents, which are made anew. */
const CARRIED = [
  ['uvs', 2],
  ['uvs2', 2],
  ['colours', 4],
] as const
export type Carried = (typeof CARRIED)[number][0]
/** What any of the parts has, each with where it begins among the numbers of a corner, and how many there are. */
export function layoutOf(parts: readonly Part[]): { name: Carried; at: number; size: number }[] {
  let at = 0
  return CARRIED.flatMap(([name, size]) => {
    if (!parts.some(part => part[name])) return []
    at += size
    return [{ name, at: at - size, size }]
  })
}

/** Two triangles that bend by less than this are halves of one face, if that has no corner beyond these (cosines). */
const FLAT = Math.cos((20 * Math.PI) / 180)
const NARROWEST = Math.cos((30 * Math.PI) / 180)

export function polygonsOf(parts: readonly Part[]): Polygons {
  const layout = layoutOf(parts)
  const width = layout.reduce((sum, { size }) => sum + size, 0)
  const { points, triangles, values, parts: partOf } = welded(parts, layout, width)
  const pairs = paired(points, triangles, values, partOf, width)
  const starts: number[] = [0]
  const corners: number[] = []
  const taken: number[] = []
  const faces: number[] = []
  const count = triangles.length / 3
  for (let t = 0; t < count; t++) {
    const pair = pairs[t]
    if (pair && pair.other < t) continue
    for (const corner of pair?.corners ?? [3 * t, 3 * t + 1, 3 * t + 2]) {
      corners.push(triangles[corner]!)
      taken.push(corner)
    }
    starts.push(corners.length)
    faces.push(partOf[t]!)
  }
  const kept = new Float32Array(taken.length * width)
  taken.forEach((corner, i) => kept.set(values.subarray(corner * width, (corner + 1) * width), i * width))
  return {
    points,
    starts: Int32Array.from(starts),
    corners: Int32Array.from(corners),
    parts: Int32Array.from(faces),
    width,
    values: kept,
  }
}

/** Points that lie at the same place are one; triangles that have shrunk to a line are left out. */
function welded(
  parts: readonly Part[],
  layout: ReturnType<typeof layoutOf>,
  width: number,
): { points: Float64Array; triangles: Int32Array; values: Float32Array; parts: number[] } {
  const places: number[] = []
  const byPlace = new Map<string, number>()
  const triangles: number[] = []
  const corners: [part: number, vertex: number][] = []
  const partOf: number[] = []
  parts.forEach(({ positions, indices }, which) => {
    const pointOf = (vertex: number): number => {
      const [x, y, z] = [positions[vertex * 3]!, positions[vertex * 3 + 1]!, positions[vertex * 3 + 2]!]
      const key = `${x} ${y} ${z}`
      let point = byPlace.get(key)
      if (point === undefined) {
        point = places.length / 3
        byPlace.set(key, point)
        places.push(x, y, z)
      }
      return point
    }
    for (let i = 0; i + 2 < indices.length; i += 3) {
      const vertices = [indices[i]!, indices[i + 1]!, indices[i + 2]!]
      const [a, b, c] = vertices.map(pointOf) as [number, number, number]
      if (a === b || b === c || c === a) continue
      triangles.push(a, b, c)
      for (const vertex of vertices) corners.push([which, vertex])
      partOf.push(which)
    }
  })
  const values = new Float32Array(corners.length * width)
  corners.forEach(([which, vertex], i) => {
    for (const { name, at, size } of layout) {
      const from = parts[which]![name]
      // A part without colours is white
      for (let k = 0; k < size; k++)
        values[i * width + at + k] = from ? from[vertex * size + k]! : name === 'colours' ? 1 : 0
    }
  })
  return { points: Float64Array.from(places), triangles: Int32Array.from(triangles), values, parts: partOf }
}

/** The other half of each triangle and the corners of both in order round the face; undefined where it has none. */
function paired(
  points: Float64Array,
  triangles: Int32Array,
  values: Float32Array,
  partOf: readonly number[],
  width: number,
): ({ other: number; corners: number[] } | undefined)[] {
  const count = triangles.length / 3
  const total = points.length / 3
  const edges = new Map<number, number>()
  const found: { first: number; second: number; corners: number[]; worst: number }[] = []
  const alike = (a: number, b: number): boolean => {
    for (let k = 0; k < width; k++) if (values[a * width + k] !== values[b * width + k]) return false
    return true
  }
  for (let t = 0; t < count; t++)
    for (let k = 0; k < 3; k++) {
      const [from, to] = [3 * t + k, 3 * t + ((k + 1) % 3)]
      const [a, b] = [triangles[from]!, triangles[to]!]
      edges.set(a * total + b, from)
      // The other half goes along it the other way
      const there = edges.get(b * total + a)
      if (there === undefined) continue
      const other = Math.floor(there / 3)
      const next = 3 * other + ((there + 1) % 3)
      if (partOf[other] !== partOf[t] || !alike(from, next) || !alike(to, there)) continue
      // Round: from, what the other has beyond the edge, to, what this one has beyond it
      const corners = [from, 3 * other + ((there + 2) % 3), to, 3 * t + ((k + 2) % 3)]
      const worst = worstCorner(
        points,
        corners.map(corner => triangles[corner]!),
      )
      if (worst !== undefined) found.push({ first: other, second: t, corners, worst })
    }
  const pairs: ({ other: number; corners: number[] } | undefined)[] = new Array<undefined>(count).fill(undefined)
  for (const { first, second, corners } of found.sort((a, b) => a.worst - b.worst)) {
    if (pairs[first] || pairs[second]) continue
    pairs[first] = { other: second, corners }
    pairs[second] = { other: first, corners }
  }
  return pairs
}

/**
 * How far its corners are from square (largest cosine); undefined for what is bent, or has a corner too sharp or too
 * blunt.
 */
function worstCorner(points: Float64Array, face: readonly number[]): number | undefined {
  const away = (from: number, to: number): [number, number, number] => [
    points[to * 3]! - points[from * 3]!,
    points[to * 3 + 1]! - points[from * 3 + 1]!,
    points[to * 3 + 2]! - points[from * 3 + 2]!,
  ]
  const dot = (a: readonly number[], b: readonly number[]): number => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!
  const cross = (a: readonly number[], b: readonly number[]): number[] => [
    a[1]! * b[2]! - a[2]! * b[1]!,
    a[2]! * b[0]! - a[0]! * b[2]!,
    a[0]! * b[1]! - a[1]! * b[0]!,
  ]
  const [p, q, r, s] = face as [number, number, number, number]
  const [one, other] = [cross(away(p, q), away(p, r)), cross(away(p, r), away(p, s))]
  const long = Math.sqrt(dot(one, one) * dot(other, other))
  if (!(long > 0) || dot(one, other) / long < FLAT) return undefined
  let worst = 0
  for (let i = 0; i < 4; i++) {
    const [before, here, after] = [face[(i + 3) % 4]!, face[i]!, face[(i + 1) % 4]!]
    const [a, b] = [away(here, before), away(here, after)]
    const cosine = Math.abs(dot(a, b)) / Math.sqrt(dot(a, a) * dot(b, b))
    if (!(cosine < NARROWEST)) return undefined
    worst = Math.max(worst, cosine)
  }
  return worst
}
