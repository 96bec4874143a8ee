// Corners of simple meshes pulled: places by hand, normals by the cross product of the sides of a face.
import { describe, expect, it } from 'vitest'
import { newDocument, type ShotDocument } from '../shot/document'
import { addStandIn, cornersOfObject, objectsOf } from '../shot/objects'
import { cornersOf, MOST_CORNERS, pulled } from './pulled'
import { standInPart } from './standin'
import type { Part } from './scene'

const part = (shape: 'box' | 'ball' | 'cylinder'): Part =>
  standInPart({ shape, width: 2, height: 1, depth: 4, points: [] }, 0)
const placesOf = ({ positions }: Part): number[][] =>
  Array.from({ length: positions.length / 3 }, (_, i) => [...positions.subarray(i * 3, i * 3 + 3)])
const isAt = (a: readonly number[], b: readonly number[]): boolean =>
  a.every((value, k) => Math.abs(value - b[k]!) < 1e-5)

describe('corners', () => {
  it('of a box are its eight, wherever its faces meet', () => {
    const corners = cornersOf([part('box')])!
    expect(corners).toHaveLength(8)
    for (const x of [-1, 1])
      for (const y of [0, 1]) for (const z of [-2, 2]) expect(corners.some(one => isAt(one, [x, y, z]))).toBe(true)
  })
  it('are of all parts of a thing, and there are none to pull of what has too many', () => {
    expect(cornersOf([part('box'), part('box')])).toHaveLength(8)
    const many = (count: number): Part => ({
      positions: Float32Array.from({ length: count * 3 }, (_, i) => i),
      indices: Uint32Array.of(0, 1, 2),
      material: 0,
    })
    expect(cornersOf([many(MOST_CORNERS)])).toHaveLength(MOST_CORNERS)
    expect(cornersOf([many(MOST_CORNERS + 1)])).toBeUndefined()
  })
})

describe('a corner that is pulled', () => {
  const box = [part('box')]
  const corner = cornersOf(box)!.findIndex(one => isAt(one, [1, 1, 2]))
  it('moves in every face that meets there, and nothing else does', () => {
    const [made] = pulled(box, [[corner, 0.5, -0.25, 1]])
    let moved = 0
    placesOf(box[0]!).forEach((before, i) => {
      const after = placesOf(made!)[i]!
      if (isAt(before, [1, 1, 2])) {
        moved++
        expect(isAt(after, [1.5, 0.75, 3])).toBe(true)
      } else expect(after).toEqual(before)
    })
    expect(moved).toBeGreaterThan(2)
  })
  it('turns the normals of its faces with it, and of no other', () => {
    const [before] = box
    const [made] = pulled(box, [[corner, 0, 1, 0]])
    const faceOf = (of: Part, i: number): number[] => {
      const [a, b, c] = [0, 1, 2].map(k => placesOf(of)[of.indices[i + k]!]!) as [number[], number[], number[]]
      const [p, q] = [b, c].map(one => one.map((value, k) => value - a[k]!)) as [number[], number[]]
      const n = [p[1]! * q[2]! - p[2]! * q[1]!, p[2]! * q[0]! - p[0]! * q[2]!, p[0]! * q[1]! - p[1]! * q[0]!]
      return n.map(value => value / Math.hypot(...n))
    }
    for (let i = 0; i < made!.indices.length; i += 3) {
      const vertices = [0, 1, 2].map(k => made!.indices[i + k]!)
      const isTouched = vertices.some(vertex => isAt(placesOf(before!)[vertex]!, [1, 1, 2]))
      const normals = vertices.map(vertex => [...made!.normals!.subarray(vertex * 3, vertex * 3 + 3)])
      // The two halves of a side that was bent have a normal between theirs where they meet
      if (isTouched) for (const normal of normals) expect(normal.reduce((sum, value, k) => sum + value * faceOf(made!, i)[k]!, 0)).toBeGreaterThan(0.8) // prettier-ignore
      for (const normal of normals) expect(Math.hypot(...normal)).toBeCloseTo(1, 5)
    }
    // The lower side has not that corner
    const below = placesOf(made!).findIndex((_, i) => before!.normals![i * 3 + 1]! < -0.99)
    expect([...made!.normals!.subarray(below * 3, below * 3 + 3)]).toEqual([
      ...before!.normals!.subarray(below * 3, below * 3 + 3),
    ])
  })
  it('leaves what was smooth smooth: each place of a ball has one normal still', () => {
    const ball = [part('ball')]
    const corners = cornersOf(ball)
    // A ball has more than a hand would pull
    const top = placesOf(ball[0]!).findIndex(([, y]) => y! > 0.999)
    expect(top).toBeGreaterThanOrEqual(0)
    const number = corners ? corners.findIndex(one => isAt(one, placesOf(ball[0]!)[top]!)) : 0
    const [made] = pulled(ball, [[number, 0, 0.5, 0]])
    expect(made!.normals).toHaveLength(ball[0]!.normals!.length)
    for (const normal of placesOf({ ...made!, positions: made!.normals! }))
      expect(Math.hypot(...normal)).toBeCloseTo(1, 4)
  })
  it('is made once, knows no corner that there is not, and has no tangents of before', () => {
    expect(pulled(box, [[corner, 1, 0, 0]])).toBe(pulled(box, [[corner, 1, 0, 0]]))
    expect(pulled(box, [[99, 1, 0, 0]])[0]).toBe(box[0])
    const [made] = pulled([{ ...box[0]!, tangents: new Float32Array(4) }], [[corner, 1, 0, 0]])
    expect(made!.tangents).toBeUndefined()
  })
})

it('a thing of a shot is pulled before it is made rounder, and tells its corners as they were', () => {
  const document: ShotDocument = newDocument(100, 100)
  const name = addStandIn(document, [], { shape: 'box', width: 2, height: 1, depth: 4, points: [] }, [0, 0, 0], 0)
  const corners = cornersOfObject(document, undefined, 1, name)!
  const corner = corners.findIndex(one => isAt(one, [1, 1, 2]))
  Object.assign(document.scene.objects[name]!, { pulled: [[corner, 3, 0, 0]], roundSteps: 0 })
  const highest = (): number =>
    Math.max(...objectsOf(document, undefined, 1).objects.find(one => one.name === name)!.parts.flatMap(placesOf).map(([x]) => x!)) // prettier-ignore
  expect(highest()).toBeCloseTo(4, 5)
  expect(cornersOfObject(document, undefined, 1, name)).toEqual(corners)
  document.scene.objects[name]!.roundSteps = 2
  document.scene.objects[name]!.roundAngle = 180
  // Drawn toward its neighbours, but from where it was pulled to
  expect(highest()).toBeGreaterThan(1.3)
  expect(highest()).toBeLessThan(4)
})
