// Meshes made rounder by subdivision: E. Catmull, J. Clark, "Recursively generated B-spline surfaces on arbitrary
// topological meshes", Computer-Aided Design 10 (1978); edges that stay sharp and borders: T. DeRose, M. Kass, T.
// Truong, "Subdivision Surfaces in Character Animation", SIGGRAPH 1998, section 3 (infinitely sharp). What lies on
// corners (surface coordinates, colours) is brought along straight.
import { Kept } from '../engine/kept'
import { layoutOf, polygonsOf, type Polygons } from './polygons'
import type { Part } from './scene'

/** Faces of an object at most: a step is left out that would make more, since one waits for it (six seconds for so many). */
export const MOST_FACES = 400_000
export const MOST_STEPS = 4
/** Degrees from which an edge stays sharp, unless said (common practice, no source). */
export const SHARP_FROM = 50

/** As many of some steps as may be taken of so many triangles: the first step makes three faces of each, at most. */
export const stepsWithin = (triangles: number, steps: number): number => {
  let taken = 0
  while (taken < steps && triangles * 3 * 4 ** taken <= MOST_FACES) taken++
  return taken
}

/** What was made of the parts of an object: files are read once, and looked at for every frame and look. */
const known = new WeakMap<readonly Part[], Kept<Part[]>>()
/** Copies share their parts, each with its own rounding. */
const MOST_KEPT = 4
/** The same, kept for as long as those parts are; no more steps than fit. */
export function rounder(parts: Part[], steps: number, angle: number): Part[] {
  const triangles = parts.reduce((sum, { indices }) => sum + indices.length / 3, 0)
  const taken = stepsWithin(triangles, Math.round(steps))
  if (!taken) return parts
  const own = known.get(parts) ?? new Kept<Part[]>(MOST_KEPT)
  known.set(parts, own)
  return own.of(`${taken} ${angle}`, () => subdivided(parts, taken, angle))
}

interface Edges {
  /** Points, the face on each side (-1: none), whether it stays sharp. */
  ends: Int32Array
  sides: Int32Array
  sharp: Uint8Array
  /** Of each corner: the edge from it to the next. */
  of: Int32Array
}

/** The parts of an object, rounder. angle: degrees between two faces from which the edge between them stays sharp. */
export function subdivided(parts: readonly Part[], steps: number, angle: number): Part[] {
  let mesh = polygonsOf(parts)
  let edges = edgesOf(mesh, undefined)
  markSharp(mesh, edges, angle)
  for (let i = 0; i < steps; i++) {
    const next = divided(mesh, edges)
    mesh = next.mesh
    edges = edgesOf(mesh, next.sharp)
  }
  return asParts(mesh, edges, parts)
}

/** sharp: keys of edges that stay sharp, by their points. */
function edgesOf({ points, starts, corners }: Polygons, sharp: ReadonlySet<number> | undefined): Edges {
  const total = points.length / 3
  const known = new Map<number, number>()
  const ends: number[] = []
  const sides: number[] = []
  const many: number[] = []
  const of = new Int32Array(corners.length)
  for (let face = 0; face + 1 < starts.length; face++)
    for (let i = starts[face]!; i < starts[face + 1]!; i++) {
      const [a, b] = [corners[i]!, corners[i + 1 === starts[face + 1] ? starts[face]! : i + 1]!]
      const key = Math.min(a, b) * total + Math.max(a, b)
      let edge = known.get(key)
      if (edge === undefined) {
        edge = sides.length / 2
        known.set(key, edge)
        ends.push(a, b)
        sides.push(face, -1)
      } else if (sides[2 * edge + 1] === -1) sides[2 * edge + 1] = face
      else many.push(edge)
      of[i] = edge
    }
  const marks = new Uint8Array(sides.length / 2)
  for (let edge = 0; edge < marks.length; edge++) {
    const [a, b] = [ends[2 * edge]!, ends[2 * edge + 1]!]
    // Borders stay where they are, too
    if (sides[2 * edge + 1] === -1 || sharp?.has(Math.min(a, b) * total + Math.max(a, b))) marks[edge] = 1
  }
  // Where three faces or more meet
  for (const edge of many) marks[edge] = 1
  return { ends: Int32Array.from(ends), sides: Int32Array.from(sides), sharp: marks, of }
}

function markSharp(mesh: Polygons, { sides, sharp }: Edges, angle: number): void {
  const facing = facings(mesh)
  const least = Math.cos((Math.min(180, Math.max(0, angle)) * Math.PI) / 180)
  for (let edge = 0; edge < sharp.length; edge++) {
    const [one, other] = [sides[2 * edge]! * 3, sides[2 * edge + 1]! * 3]
    if (other < 0) continue
    const cosine =
      facing[one]! * facing[other]! + facing[one + 1]! * facing[other + 1]! + facing[one + 2]! * facing[other + 2]!
    if (cosine < least - 1e-9) sharp[edge] = 1
  }
}

/** Unit normal of each face (M. E. Newell's sum over its edges). */
function facings({ points, starts, corners }: Polygons): Float64Array {
  const out = new Float64Array((starts.length - 1) * 3)
  for (let face = 0; face + 1 < starts.length; face++) {
    let [x, y, z] = [0, 0, 0]
    for (let i = starts[face]!; i < starts[face + 1]!; i++) {
      const a = corners[i]! * 3
      const b = corners[i + 1 === starts[face + 1] ? starts[face]! : i + 1]! * 3
      x += (points[a + 1]! - points[b + 1]!) * (points[a + 2]! + points[b + 2]!)
      y += (points[a + 2]! - points[b + 2]!) * (points[a]! + points[b]!)
      z += (points[a]! - points[b]!) * (points[a + 1]! + points[b + 1]!)
    }
    const long = Math.hypot(x, y, z) || 1
    out.set([x / long, y / long, z / long], face * 3)
  }
  return out
}

/** One step: each face becomes as many four-sided ones as it has corners. */
function divided(mesh: Polygons, edges: Edges): { mesh: Polygons; sharp: Set<number> } {
  const { starts, corners, width, values } = mesh
  const [total, edgeCount, faceCount] = [mesh.points.length / 3, edges.sharp.length, starts.length - 1]
  const points = movedPoints(mesh, edges)
  const made = corners.length
  const next = {
    points,
    starts: Int32Array.from({ length: made + 1 }, (_, i) => i * 4),
    corners: new Int32Array(made * 4),
    parts: new Int32Array(made),
    width,
    values: new Float32Array(made * 4 * width),
  }
  for (let face = 0; face < faceCount; face++) {
    const [from, to] = [starts[face]!, starts[face + 1]!]
    for (let i = from; i < to; i++) {
      const before = i === from ? to - 1 : i - 1
      const after = i + 1 === to ? from : i + 1
      next.corners.set([corners[i]!, total + edges.of[i]!, total + edgeCount + face, total + edges.of[before]!], i * 4)
      next.parts[i] = mesh.parts[face]!
      for (let k = 0; k < width; k++) {
        const own = values[i * width + k]!
        let sum = 0
        for (let j = from; j < to; j++) sum += values[j * width + k]!
        const at = i * 4 * width + k
        next.values[at] = own
        next.values[at + width] = (own + values[after * width + k]!) / 2
        next.values[at + 2 * width] = sum / (to - from)
        next.values[at + 3 * width] = (own + values[before * width + k]!) / 2
      }
    }
  }
  const nextTotal = points.length / 3
  const sharp = new Set<number>()
  for (let edge = 0; edge < edgeCount; edge++)
    if (edges.sharp[edge])
      for (const end of [edges.ends[2 * edge]!, edges.ends[2 * edge + 1]!]) sharp.add(end * nextTotal + total + edge)
  return { mesh: next, sharp }
}

/** Points of the next step: those that were, then one for each edge, then one for each face. */
function movedPoints({ points, starts, corners }: Polygons, { ends, sides, sharp }: Edges): Float64Array {
  const [total, edgeCount, faceCount] = [points.length / 3, sharp.length, starts.length - 1]
  const out = new Float64Array((total + edgeCount + faceCount) * 3)
  const [edgeAt, faceAt] = [total * 3, (total + edgeCount) * 3]
  // Of each point: faces and edges about it, sharp edges, sums of face points and of middles of edges, and of sharp
  // ends
  const [faces, lines, sharps] = [new Int32Array(total), new Int32Array(total), new Int32Array(total)]
  const [faceSum, lineSum, sharpSum] = [0, 1, 2].map(() => new Float64Array(total * 3)) as [
    Float64Array,
    Float64Array,
    Float64Array,
  ]
  for (let face = 0; face < faceCount; face++) {
    const [from, to] = [starts[face]!, starts[face + 1]!]
    for (let k = 0; k < 3; k++) {
      let sum = 0
      for (let i = from; i < to; i++) sum += points[corners[i]! * 3 + k]!
      out[faceAt + face * 3 + k] = sum / (to - from)
      for (let i = from; i < to; i++) faceSum[corners[i]! * 3 + k]! += sum / (to - from)
    }
    for (let i = from; i < to; i++) faces[corners[i]!]!++
  }
  for (let edge = 0; edge < edgeCount; edge++) {
    const [a, b] = [ends[2 * edge]!, ends[2 * edge + 1]!]
    const [one, other] = [sides[2 * edge]!, sides[2 * edge + 1]!]
    for (const [own, far] of [
      [a, b],
      [b, a],
    ] as const) {
      lines[own]!++
      if (sharp[edge]) sharps[own]!++
      for (let k = 0; k < 3; k++) {
        lineSum[own * 3 + k]! += (points[own * 3 + k]! + points[far * 3 + k]!) / 2
        if (sharp[edge]) sharpSum[own * 3 + k]! += points[far * 3 + k]!
      }
    }
    for (let k = 0; k < 3; k++) {
      const middle = (points[a * 3 + k]! + points[b * 3 + k]!) / 2
      out[edgeAt + edge * 3 + k] = sharp[edge]
        ? middle
        : (2 * middle + out[faceAt + one * 3 + k]! + out[faceAt + other * 3 + k]!) / 4
    }
  }
  for (let point = 0; point < total; point++) {
    const count = faces[point]!
    for (let k = 0; k < 3; k++) {
      const at = point * 3 + k
      const own = points[at]!
      // The corner of a border, or where three sharp edges meet, stays
      if (sharps[point]! > 2 || count < 2) out[at] = own
      else if (sharps[point] === 2) out[at] = (6 * own + sharpSum[at]!) / 8
      else out[at] = (faceSum[at]! / count + (2 * lineSum[at]!) / lines[point]! + (count - 3) * own) / count
    }
  }
  return out
}

/**
 * Faces as triangles, each with its own vertices: what they share would change with how a mesh bends from frame to
 * frame.
 */
function asParts(mesh: Polygons, edges: Edges, parts: readonly Part[]): Part[] {
  const { points, starts, corners, width, values } = mesh
  const normals = cornerNormals(mesh, edges)
  const layout = layoutOf(parts)
  const faces: number[][] = parts.map(() => [])
  mesh.parts.forEach((part, face) => faces[part]!.push(face))
  return parts.map((part, which) => {
    const own = faces[which]!
    const list = own.flatMap(face =>
      Array.from({ length: starts[face + 1]! - starts[face]! }, (_, i) => starts[face]! + i),
    )
    const indices: number[] = []
    let first = 0
    for (const face of own) {
      const count = starts[face + 1]! - starts[face]!
      for (let i = 1; i + 1 < count; i++) indices.push(first, first + i, first + i + 1)
      first += count
    }
    const gathered = (size: number, from: (corner: number) => ArrayLike<number>): Float32Array => {
      const out = new Float32Array(list.length * size)
      list.forEach((corner, i) => out.set(from(corner), i * size))
      return out
    }
    const made: Part = {
      positions: gathered(3, corner => points.subarray(corners[corner]! * 3, corners[corner]! * 3 + 3)),
      normals: gathered(3, corner => normals.subarray(corner * 3, corner * 3 + 3)),
      indices: Uint32Array.from(indices),
      material: part.material,
    }
    for (const { name, at, size } of layout)
      if (part[name])
        made[name] = gathered(size, corner => values.subarray(corner * width + at, corner * width + at + size))
    return made
  })
}

/** Of each corner the mean of the faces about its point that no sharp edge parts from it. */
function cornerNormals(mesh: Polygons, { of, sharp, sides }: Edges): Float64Array {
  const { starts, corners } = mesh
  const facing = facings(mesh)
  const root = Int32Array.from({ length: corners.length }, (_, i) => i)
  const rootOf = (corner: number): number => {
    let at = corner
    while (root[at] !== at) {
      root[at] = root[root[at]!]!
      at = root[at]!
    }
    return at
  }
  // The corner after which each face goes along each edge, by the edge's two sides
  const along = new Int32Array(sides.length).fill(-1)
  const faceOf = new Int32Array(corners.length)
  const nextOf = new Int32Array(corners.length)
  for (let face = 0; face + 1 < starts.length; face++)
    for (let i = starts[face]!; i < starts[face + 1]!; i++) {
      faceOf[i] = face
      nextOf[i] = i + 1 === starts[face + 1] ? starts[face]! : i + 1
      along[2 * of[i]! + (sides[2 * of[i]!] === face ? 0 : 1)] = i
    }
  for (let edge = 0; edge < sharp.length; edge++) {
    const [one, other] = [along[2 * edge]!, along[2 * edge + 1]!]
    if (sharp[edge] || one < 0 || other < 0) continue
    for (const a of [one, nextOf[one]!])
      for (const b of [other, nextOf[other]!]) if (corners[a] === corners[b]) root[rootOf(a)] = rootOf(b)
  }
  const sums = new Float64Array(corners.length * 3)
  for (let i = 0; i < corners.length; i++)
    for (let k = 0; k < 3; k++) sums[rootOf(i) * 3 + k]! += facing[faceOf[i]! * 3 + k]!
  const out = new Float64Array(corners.length * 3)
  for (let i = 0; i < corners.length; i++) {
    const at = rootOf(i) * 3
    const long = Math.hypot(sums[at]!, sums[at + 1]!, sums[at + 2]!) || 1
    for (let k = 0; k < 3; k++) out[i * 3 + k] = sums[at + k]! / long
  }
  return out
}
