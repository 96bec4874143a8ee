// Rounder meshes: against the paper's own rules by hand, and against gl-catmull-clark (npm) on closed meshes.
import { describe, expect, it } from 'vitest'
import catmullClark from 'gl-catmull-clark'
import type { Part } from '../../core/scene/scene'
import { newDocument } from '../../core/shot/document'
import { addStandIn, objectsOf } from '../../core/shot/objects'
import { sceneStamp } from '../../core/shot/stamp'
import { documentFaults } from '../../shared/validate'
import { polygonsOf } from '../../core/scene/polygons'
import { MOST_FACES, stepsWithin, subdivided } from '../../core/scene/subdivide'

type Points = number[][]
/** Faces of any number of corners as triangles, a vertex for each corner as files have it. */
function part(points: Points, faces: number[][], uvs?: (face: number, corner: number) => number[]): Part {
  const positions: number[] = []
  const coordinates: number[] = []
  const indices: number[] = []
  faces.forEach((face, f) => {
    const first = positions.length / 3
    face.forEach((point, i) => {
      positions.push(...points[point]!)
      if (uvs) coordinates.push(...uvs(f, i))
    })
    for (let i = 1; i + 1 < face.length; i++) indices.push(first, first + i, first + i + 1)
  })
  return {
    positions: Float32Array.from(positions),
    ...(uvs ? { uvs: Float32Array.from(coordinates) } : {}),
    indices: Uint32Array.from(indices),
    material: 0,
  }
}
const CUBE: Points = [0, 1, 2, 3, 4, 5, 6, 7].map(i => [i & 1 ? 1 : -1, i & 2 ? 1 : -1, i & 4 ? 1 : -1])
const SIDES = [
  [0, 2, 3, 1],
  [4, 5, 7, 6],
  [0, 1, 5, 4],
  [2, 6, 7, 3],
  [0, 4, 6, 2],
  [1, 3, 7, 5],
]
const place = (values: ArrayLike<number>): string =>
  Array.from(values, value => (Math.round(value * 1e4) / 1e4 || 0).toFixed(4)).join(' ')
const placesOf = ({ positions }: Part): Set<string> =>
  new Set(Array.from({ length: positions.length / 3 }, (_, i) => place(positions.subarray(i * 3, i * 3 + 3))))
const sorted = (set: Set<string>): string[] => [...set].sort()

describe('a cube', () => {
  it('is six faces again, however it was cut into triangles', () => {
    const { starts, points } = polygonsOf([part(CUBE, SIDES)])
    expect([starts.length - 1, points.length / 3]).toEqual([6, 8])
    expect(starts.at(-1)).toBe(24)
  })
  it('after one step: corners at 5/9, middles of edges at 3/4, of faces at 1, as the rules say', () => {
    const [made] = subdivided([part(CUBE, SIDES)], 1, 180)
    const found = placesOf(made!)
    // (Q + 2 R + (n - 3) S) / n of three faces: (1/3 + 2 * 2/3) / 3
    expect(found).toContain(place([5 / 9, 5 / 9, 5 / 9]))
    expect(found).toContain(place([0.75, 0.75, 0]))
    expect(found).toContain(place([1, 0, 0]))
    expect(found.size).toBe(8 + 12 + 6)
    expect(made!.indices.length).toBe(24 * 2 * 3)
  })
  it('stays a cube where its edges are sharp: its normals, too', () => {
    const [made] = subdivided([part(CUBE, SIDES)], 2, 60)
    for (const value of made!.positions) expect(Math.abs(value)).toBeLessThanOrEqual(1)
    const found = placesOf(made!)
    for (const corner of CUBE) expect(found).toContain(place(corner))
    for (let i = 0; i < made!.normals!.length; i += 3)
      expect(Math.max(...[0, 1, 2].map(k => Math.abs(made!.normals![i + k]!)))).toBeCloseTo(1, 6)
  })
  it('points outward all over, and comes near a ball', () => {
    const [made] = subdivided([part(CUBE, SIDES)], 4, 180)
    const { positions, normals } = made!
    const lengths: number[] = []
    for (let i = 0; i < positions.length; i += 3) {
      const [p, n] = [positions.subarray(i, i + 3), normals!.subarray(i, i + 3)]
      const long = Math.hypot(...p)
      lengths.push(long)
      expect((p[0]! * n[0]! + p[1]! * n[1]! + p[2]! * n[2]!) / long).toBeGreaterThan(0.95)
    }
    expect(Math.max(...lengths) / Math.min(...lengths)).toBeLessThan(1.12)
  })
})

it('closed meshes of three- and four-sided faces are gl-catmull-clark’s, two steps far', () => {
  const TETRAHEDRON: [Points, number[][]] = [
    [
      [1, 1, 1],
      [1, -1, -1],
      [-1, 1, -1],
      [-1, -1, 1],
    ],
    [
      [0, 1, 2],
      [0, 3, 1],
      [0, 2, 3],
      [1, 3, 2],
    ],
  ]
  // A house: a box with a ridge, five- and three-cornered ends left out
  const PRISM: [Points, number[][]] = [
    [
      [0, 0, 0],
      [2, 0, 0],
      [1, 1.5, 0],
      [0, 0, 5],
      [2, 0, 5],
      [1, 1.5, 5],
    ],
    [
      [0, 2, 1],
      [3, 4, 5],
      [0, 1, 4, 3],
      [1, 2, 5, 4],
      [2, 0, 3, 5],
    ],
  ]
  for (const [points, faces] of [TETRAHEDRON, PRISM, [CUBE, SIDES] as [Points, number[][]]]) {
    const reference = catmullClark(points, faces, 2, false)
    const [made] = subdivided([part(points, faces)], 2, 180)
    expect(sorted(placesOf(made!))).toEqual(sorted(new Set(reference.positions.map(place))))
    expect(made!.indices.length / 6).toBe(reference.cells.length)
  }
})

it('the border of a sheet stays a curve on itself, its corners stay', () => {
  // Three by three faces, flat
  const points = Array.from({ length: 16 }, (_, i) => [i % 4, 0, Math.floor(i / 4)])
  const faces = Array.from({ length: 9 }, (_, i) => {
    const at = Math.floor(i / 3) * 4 + (i % 3)
    return [at, at + 4, at + 5, at + 1]
  })
  const [made] = subdivided(
    [part(points, faces, (f, c) => [points[faces[f]![c]!]![0]! / 3, points[faces[f]![c]!]![2]! / 3])],
    2,
    180,
  )
  const found = placesOf(made!)
  for (const corner of [0, 3, 12, 15]) expect(found).toContain(place(points[corner]!))
  // Flat, no larger than it was, facing up; its surface coordinates lie as its places do
  const { positions, normals, uvs } = made!
  for (let i = 0; i < positions.length / 3; i++) {
    const [x, y, z] = positions.subarray(i * 3, i * 3 + 3)
    expect(y).toBe(0)
    expect(Math.min(x!, z!)).toBeGreaterThanOrEqual(0)
    expect(Math.max(x!, z!)).toBeLessThanOrEqual(3)
    expect(normals![i * 3 + 1]).toBeCloseTo(1, 6)
    expect(Math.abs(uvs![i * 2]! - x! / 3)).toBeLessThan(0.06)
  }
})

it('a place of the border goes to six eighths of itself and one of each neighbour on it', () => {
  const points = Array.from({ length: 9 }, (_, i) => [i % 3, 0, i === 1 ? -0.5 : Math.floor(i / 3)])
  const faces = [0, 1, 3, 4].map(at => [at, at + 3, at + 4, at + 1])
  const [made] = subdivided([part(points, faces)], 1, 180)
  expect(placesOf(made!)).toContain(place([1, 0, -0.375]))
})

it('parts keep their materials and meet without a gap; colours of one are white on the other', () => {
  const half = (faces: number[][], material: number): Part => ({ ...part(CUBE, faces), material })
  const red = half(SIDES.slice(0, 3), 4)
  const coloured = { ...red, colours: new Float32Array((red.positions.length / 3) * 4).fill(0.5) }
  const [one, other] = subdivided([coloured, half(SIDES.slice(3), 7)], 1, 180)
  expect([one!.material, other!.material]).toEqual([4, 7])
  const both = new Set([...placesOf(one!), ...placesOf(other!)])
  expect(both.size).toBe(26)
  expect(one!.colours![0]).toBe(0.5)
  expect(other!.colours).toBeUndefined()
})

it('as many vertices however it is bent; what has shrunk to a line is left out; steps are bounded', () => {
  const bent = CUBE.map(([x, y, z]) => [x! + 0.5 * y! * y!, y! * 2, z! + 0.2 * x!])
  const [a] = subdivided([part(CUBE, SIDES)], 1, 40)
  const [b] = subdivided([part(bent, SIDES)], 1, 40)
  expect(b!.positions.length).toBe(a!.positions.length)
  const thin: Part = {
    positions: Float32Array.from([0, 0, 0, 1, 0, 0, 1, 0, 0]),
    indices: Uint32Array.from([0, 1, 2]),
    material: 0,
  }
  expect(subdivided([thin], 2, 30)[0]!.indices.length).toBe(0)
  expect(stepsWithin(12, 4)).toBe(4)
  expect(stepsWithin(100_000, 4)).toBe(1)
  expect(stepsWithin(MOST_FACES, 1)).toBe(0)
})

it('a thing of a shot is as round as its settings say, at render and in what the page is told; passes know it', () => {
  const document = newDocument()
  const name = addStandIn(document, [], { shape: 'box', width: 1, height: 1, depth: 1, points: [] }, [0, 0, 0], 0)
  const trianglesOf = (): number => objectsOf(document, undefined, 1).objects[0]!.parts[0]!.indices.length / 3
  expect(trianglesOf()).toBe(12)
  const stamp = sceneStamp(document)
  document.scene.objects[name]!.roundSteps = 2
  expect(trianglesOf()).toBe(6 * 16 * 2)
  expect(sceneStamp(document)).not.toBe(stamp)
  // A box keeps its edges at 50 degrees, and loses them at 180
  const reach = (): number => Math.max(...objectsOf(document, undefined, 1).objects[0]!.parts[0]!.positions)
  expect(reach()).toBe(1)
  const corner = (): boolean => {
    const { positions } = objectsOf(document, undefined, 1).objects[0]!.parts[0]!
    return Array.from({ length: positions.length / 3 }).some(
      (_, i) => positions[i * 3]! > 0.49 && positions[i * 3 + 1]! > 0.99,
    )
  }
  expect(corner()).toBe(true)
  document.scene.objects[name]!.roundAngle = 180
  expect(corner()).toBe(false)
  expect(documentFaults(document)).toEqual([])
  document.scene.objects[name]!.roundSteps = 9
  expect(documentFaults(document).join()).toMatch(/round/)
})
