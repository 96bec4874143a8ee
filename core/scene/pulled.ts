// Corners of a simple mesh pulled to other places. A corner is where vertices lie at one place, whatever their normals
// and textures.
import { Kept } from '../engine/kept'
import type { Part } from './scene'
import { add, cross, length, scaled, subtract, type Vector3 } from './vector'

/** More corners than these are no simple mesh. */
export const MOST_CORNERS = 500
/** A corner by its number, and how far it is moved in the object's own space, metres. */
export type Pull = readonly number[]

interface Corners {
  places: Vector3[]
  /** Of each part: the corner of each vertex. */
  of: Uint32Array[]
}
function welded(parts: readonly Part[]): Corners {
  const known = new Map<string, number>()
  const places: Vector3[] = []
  const of = parts.map(({ positions }) =>
    Uint32Array.from({ length: positions.length / 3 }, (_, i) => {
      const place: Vector3 = [positions[i * 3]!, positions[i * 3 + 1]!, positions[i * 3 + 2]!]
      const key = place.map(value => Math.round(value * 1e5)).join()
      let corner = known.get(key)
      if (corner === undefined) {
        corner = places.push(place) - 1
        known.set(key, corner)
      }
      return corner
    }),
  )
  return { places, of }
}

/** The corners of a mesh in its own space, by their numbers; undefined where it has more than a hand could pull. */
export function cornersOf(parts: readonly Part[]): Vector3[] | undefined {
  // Vertices at one place are few: what has many more is not looked through
  if (parts.reduce((sum, { positions }) => sum + positions.length / 3, 0) > MOST_CORNERS * 40) return undefined
  const { places } = welded(parts)
  return places.length <= MOST_CORNERS ? places : undefined
}

const made = new WeakMap<readonly Part[], Kept<Part[]>>()
const MOST_KEPT = 4
/** The parts with some of their corners moved; corners that there are not stay out of it. The same as long as those parts are. */
export function pulled(parts: Part[], pulls: readonly Pull[]): Part[] {
  const own = made.get(parts) ?? new Kept<Part[]>(MOST_KEPT)
  made.set(parts, own)
  return own.of(JSON.stringify(pulls), () => {
    const { of } = welded(parts)
    const by = new Map(pulls.map(([corner, x, y, z]) => [corner!, [x!, y!, z!] as Vector3]))
    return parts.map((part, i) => (of[i]!.some(corner => by.has(corner)) ? moved(part, of[i]!, by) : part))
  })
}

function moved(part: Part, of: Uint32Array, by: ReadonlyMap<number, Vector3>): Part {
  const positions = part.positions.slice()
  const isMoved = Uint8Array.from(of, corner => Number(by.has(corner)))
  of.forEach((corner, i) => by.get(corner)?.forEach((value, k) => (positions[i * 3 + k]! += value)))
  const { tangents: _tangents, ...rest } = part
  return part.normals ? { ...rest, positions, normals: normalsOf(part, positions, isMoved) } : { ...rest, positions }
}
/**
 * Normals as they are, but at faces that were pulled: there the mean of the faces of a vertex, each by its area. What was
 * smooth shares its vertices and stays smooth; what was sharp has its own.
 */
function normalsOf({ indices, normals }: Part, positions: Float32Array, isMoved: Uint8Array): Float32Array {
  const out = normals!.slice()
  const count = positions.length / 3
  const isTouched = new Uint8Array(count)
  const sums = Array.from({ length: count }, (): Vector3 => [0, 0, 0])
  const at = (i: number): Vector3 => [positions[i * 3]!, positions[i * 3 + 1]!, positions[i * 3 + 2]!]
  for (let i = 0; i < indices.length; i += 3) {
    const face = [indices[i]!, indices[i + 1]!, indices[i + 2]!] as const
    const [a, b, c] = [at(face[0]), at(face[1]), at(face[2])]
    const normal = cross(subtract(b, a), subtract(c, a))
    const touched = face.some(vertex => isMoved[vertex])
    for (const vertex of face) {
      sums[vertex] = add(sums[vertex]!, normal)
      if (touched) isTouched[vertex] = 1
    }
  }
  sums.forEach((sum, i) => {
    const long = length(sum)
    if (isTouched[i] && long > 0) out.set(scaled(sum, 1 / long), i * 3)
  })
  return out
}
