// Normals: flat where a file gives none, and pictures of them the right way up. The expectations are those of the glTF 2.0
// specification: 3.7.2.1 (no normals: flat, tangents ignored; no tangents: MikkTSpace; bitangent = cross(normal, tangent) w)
// and 3.9.3 (+X of the picture is right, +Y is up, +Z towards the viewer; u runs right, v down the picture).
import { generateTangents } from 'mikktspace'
import { describe, expect, it } from 'vitest'
import { makeTangents } from '../../core/render/tangents'
import type { Part, Texture } from '../../core/scene/scene'
import { identity, type Matrix4, type Vector3 } from '../../core/scene/vector'
import { ball, lookAt, material, object, quad, renderScene, scene } from '../scenes'

const code = (value: number): number => Math.round((value * 0.5 + 0.5) * 255)
/** A picture of one normal. */
const picture = (x: number, y: number, z: number): Texture => ({
  pixels: Uint8Array.from([code(x), code(y), code(z), 255]),
  width: 1,
  height: 1,
  wrapS: 'repeat',
  wrapT: 'repeat',
})
const TILT: Vector3 = [0.48, 0.64, 0.6]
/** A wall across the view, its picture upright as seen from the camera. */
const wall = quad([-1, -1, -4], [1, -1, -4], [1, 1, -4], [-1, 1, -4])
const mirrored: Matrix4 = [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]

function seen(part: Part, matrix = identity(), normalTexture = picture(...TILT)): Vector3 {
  const passes = renderScene(scene([object('wall', part, { matrix })], { materials: [material({ normalTexture })] }), {
    camera: lookAt([0, 0, 0], [0, 0, -1], 200),
    samples: 2,
    width: 4,
    height: 4,
    passes: ['normal'],
  })
  return [...passes.normal.slice(0, 3)] as Vector3
}
const expectNear = (found: Vector3, expected: Vector3): void =>
  found.forEach((value, k) => expect(Math.abs(value - expected[k]!)).toBeLessThan(0.01))

/** A wall of many triangles, so that its places share one mesh. */
function finely(part: Part, steps: number): Part {
  const positions: number[] = []
  const uvs: number[] = []
  const indices: number[] = []
  for (let y = 0; y <= steps; y++)
    for (let x = 0; x <= steps; x++) {
      positions.push((x / steps) * 2 - 1, 1 - (y / steps) * 2, -4)
      uvs.push(x / steps, y / steps)
    }
  for (let y = 0; y < steps; y++)
    for (let x = 0; x < steps; x++) {
      const a = y * (steps + 1) + x
      indices.push(a, a + steps + 1, a + 1, a + 1, a + steps + 1, a + steps + 2)
    }
  return {
    ...part,
    positions: Float32Array.from(positions),
    normals: Float32Array.from(positions.map((_, i) => (i % 3 === 2 ? 1 : 0))),
    uvs: Float32Array.from(uvs),
    indices: Uint32Array.from(indices),
  }
}

describe('pictures of normals', () => {
  const tangents = Float32Array.from([1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1])
  it('are the right way up on a mesh without tangents, as with those of its file', () => {
    expectNear(seen(wall), TILT)
    expectNear(seen({ ...wall, tangents }), TILT)
  })
  it('are mirrored with a mirrored node: right becomes left, up stays up', () => {
    expectNear(seen(wall, mirrored), [-TILT[0], TILT[1], TILT[2]])
    expectNear(seen({ ...wall, tangents }, mirrored), [-TILT[0], TILT[1], TILT[2]])
  })
  it('so too where one mesh stands in many places', () => {
    const fine = finely(wall, 60)
    const passes = renderScene(
      scene(
        [
          object('left', fine, { matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -1, 0, 0, 1] }),
          object('right', fine, { matrix: [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 1, 0, 0, 1] }),
          object('far', fine, { matrix: [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 1, 0, -9, 1] }),
          object('far too', fine, { matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 1, 0, -9, 1] }),
        ],
        { materials: [material({ normalTexture: picture(...TILT) })] },
      ),
      { camera: lookAt([0, 0, 0], [0, 0, -1], 100), samples: 2, width: 8, height: 4, passes: ['normal'] },
    )
    expectNear([...passes.normal.slice(0, 3)] as Vector3, TILT)
    expectNear([...passes.normal.slice(21, 24)] as Vector3, [-TILT[0], TILT[1], TILT[2]])
  })
  it('lie right on both sides of a fold whose corners are shared', () => {
    // u runs away from the middle on both sides
    const fold: Part = {
      positions: Float32Array.from([-1, -1, -4, 0, -1, -4, 1, -1, -4, -1, 1, -4, 0, 1, -4, 1, 1, -4]),
      normals: Float32Array.from([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1]),
      uvs: Float32Array.from([1, 1, 0, 1, 1, 1, 1, 0, 0, 0, 1, 0]),
      indices: Uint32Array.from([0, 1, 4, 0, 4, 3, 1, 2, 5, 1, 5, 4]),
      material: 0,
    }
    const view = (x: number): Vector3 => {
      const passes = renderScene(
        scene([object('fold', fold)], { materials: [material({ normalTexture: picture(...TILT) })] }),
        { camera: lookAt([x, 0, 0], [x, 0, -1], 2000), samples: 2, width: 4, height: 4, passes: ['normal'] },
      )
      return [...passes.normal.slice(0, 3)] as Vector3
    }
    for (const x of [0.1, 0.5, 0.9]) {
      expectNear(view(x), TILT)
      expectNear(view(-x), [-TILT[0], TILT[1], TILT[2]])
    }
  })
  it('by the surface coordinates that the picture lies by', () => {
    const turned = Float32Array.from([1, 1, 1, 0, 0, 0, 0, 1])
    // The second set is turned by a quarter: right of the picture runs down the wall, up runs right
    const found = seen({ ...wall, uvs2: turned }, identity(), { ...picture(...TILT), set: 1 })
    expectNear(found, [TILT[1], -TILT[0], TILT[2]])
  })
  it('have the tangents of MikkTSpace (npm mikktspace 1.1.1; w turned for v running down, as its README asks)', () => {
    const round = ball([0, 0, 0], 1, 24)
    const ours = makeTangents(round, round.uvs)
    const spread = (from: Float32Array, size: number): Float32Array =>
      Float32Array.from([...round.indices].flatMap(i => [...from.slice(i * size, i * size + size)]))
    const theirs = generateTangents(spread(round.positions, 3), spread(round.normals!, 3), spread(round.uvs!, 2))
    let compared = 0
    round.indices.forEach((v, i) => {
      // The poles have no tangent
      if (Math.abs(round.positions[v * 3 + 1]!) > 0.98) return
      const length = Math.hypot(ours[v * 4]!, ours[v * 4 + 1]!, ours[v * 4 + 2]!)
      const cosine = [0, 1, 2].reduce((sum, k) => sum + (ours[v * 4 + k]! / length) * theirs[i * 4 + k]!, 0)
      // The ball's seam is a row of corners of its own, where an average lacks one side
      expect(cosine).toBeGreaterThan(0.996)
      expect(ours[v * 4 + 3]).toBe(-theirs[i * 4 + 3]!)
      compared++
    })
    expect(compared).toBeGreaterThan(5000)
  })
})

describe('a mesh without normals', () => {
  it('is flat: every pixel has the normal of its triangle', () => {
    const steps = 6
    const { normals: _, ...bare } = ball([0, 0, -6], 1.5, steps)
    const passes = renderScene(scene([object('ball', bare)]), {
      camera: lookAt([0, 0, 0], [0, 0, -6], 80),
      samples: 1,
      width: 64,
      height: 64,
      passes: ['normal', 'alpha', 'position'],
    })
    // Every normal is one of the triangles'
    const facets: Vector3[] = []
    for (let i = 0; i < bare.indices.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map(k => [
        ...bare.positions.slice(bare.indices[i + k]! * 3, bare.indices[i + k]! * 3 + 3),
      ])
      const e = [0, 1, 2].map(k => b![k]! - a![k]!)
      const f = [0, 1, 2].map(k => c![k]! - a![k]!)
      const n = [e[1]! * f[2]! - e[2]! * f[1]!, e[2]! * f[0]! - e[0]! * f[2]!, e[0]! * f[1]! - e[1]! * f[0]!]
      const length = Math.hypot(...n)
      if (length > 1e-9) facets.push(n.map(value => value / length) as Vector3)
    }
    let inside = 0
    for (let i = 0; i < 64 * 64; i++) {
      if (passes.alpha[i]! < 1) continue
      const found = [...passes.normal.slice(i * 3, i * 3 + 3)]
      const best = Math.max(...facets.map(n => Math.abs(n.reduce((sum, value, k) => sum + value * found[k]!, 0))))
      if (best > 0.99999) inside++
      else expect.unreachable(`pixel ${i} has a normal between the triangles': ${found.join(' ')}`)
    }
    expect(inside).toBeGreaterThan(800)
  })
})
