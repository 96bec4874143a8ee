// Stand-ins, catchers that take their colour from the plate, and pictures laid on things.
import { type Unplaced } from '../../core/shot/rows'
import { describe, expect, it } from 'vitest'
import { standInPart, type StandIn } from '../../core/scene/standin'
import { foldEdges } from '../../core/scene/edges'
import {
  identity,
  inverseOf,
  multiply,
  rotationFromDegrees,
  transformPoint,
  type Vector3,
} from '../../core/scene/vector'
import type { Part, PlateLight, Texture } from '../../core/scene/scene'
import { printAt } from '../../core/shot/scene'
import type { PrintSettings } from '../../core/shot/document'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'

/** Volume by the divergence theorem: right only for closed surfaces whose triangles all face outward. */
function volume({ positions, indices }: Part): number {
  let sum = 0
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map(k => {
      const v = indices[i + k]! * 3
      return [positions[v]!, positions[v + 1]!, positions[v + 2]!]
    }) as [number[], number[], number[]]
    sum +=
      (a[0]! * (b[1]! * c[2]! - b[2]! * c[1]!) +
        a[1]! * (b[2]! * c[0]! - b[0]! * c[2]!) +
        a[2]! * (b[0]! * c[1]! - b[1]! * c[0]!)) /
      6
  }
  return sum
}
const made = (change: Partial<StandIn>): Part =>
  standInPart({ shape: 'box', width: 2, height: 3, depth: 0.5, points: [], ...change }, 0)

describe('shapes', () => {
  it('have the volumes of their formulas, closed and facing outward', () => {
    expect(volume(made({}))).toBeCloseTo(3, 5)
    expect(Math.abs(volume(made({ shape: 'cylinder' })) / (Math.PI * 3) - 1)).toBeLessThan(0.005)
    expect(Math.abs(volume(made({ shape: 'ball' })) / ((4 / 3) * Math.PI) - 1)).toBeLessThan(0.01)
    // Frustum of a cone: pi h / 3 (R² + R r + r²)
    expect(
      Math.abs(
        volume(
          made({
            shape: 'profile',
            points: [
              [1, 0],
              [0.5, 2],
            ],
          }),
        ) /
          (((Math.PI * 2) / 3) * (1 + 0.5 + 0.25)) -
          1,
      ),
    ).toBeLessThan(0.005)
    const corner: [number, number][] = [
      [0, 0],
      [2, 0],
      [2, 1],
      [1, 1],
      [1, 2],
      [0, 2],
    ]
    for (const points of [corner, [...corner].reverse()])
      expect(volume(made({ shape: 'outline', points }))).toBeCloseTo(9, 5)
  })
  it('stand on the ground, normals along their faces', () => {
    for (const shape of ['box', 'cylinder', 'plane', 'ball'] as const) {
      const { positions, normals, indices } = made({ shape })
      expect(Math.min(...positions.filter((_, i) => i % 3 === 1))).toBeCloseTo(0, 6)
      for (let i = 0; i < indices.length; i += 3) {
        const [a, b, c] = [0, 1, 2].map(k => {
          const v = indices[i + k]! * 3
          return [positions[v]!, positions[v + 1]!, positions[v + 2]!] as Vector3
        }) as [Vector3, Vector3, Vector3]
        const n = [
          (b[1] - a[1]) * (c[2] - a[2]) - (b[2] - a[2]) * (c[1] - a[1]),
          (b[2] - a[2]) * (c[0] - a[0]) - (b[0] - a[0]) * (c[2] - a[2]),
          (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]),
        ]
        const own = indices[i]! * 3
        if (Math.hypot(...n) > 1e-9)
          expect(
            (n[0]! * normals![own]! + n[1]! * normals![own + 1]! + n[2]! * normals![own + 2]!) / Math.hypot(...n),
          ).toBeGreaterThan(0.9)
      }
    }
  })
  it('without area are refused with a sentence', () => {
    expect(() =>
      made({
        shape: 'outline',
        points: [
          [0, 0],
          [1, 1],
          [2, 2],
        ],
      }),
    ).toThrow(/no area/)
    expect(() => made({ shape: 'profile', points: [[1, 0]] })).toThrow(/two points/)
  })
  it('fold along their edges: twelve of a box, two rims of a cylinder', () => {
    const box = foldEdges([made({})], identity())
    expect(box.length / 6).toBe(12)
    expect(
      Array.from({ length: 12 }, (_, i) =>
        Math.hypot(box[i * 6]! - box[i * 6 + 3]!, box[i * 6 + 1]! - box[i * 6 + 4]!, box[i * 6 + 2]! - box[i * 6 + 5]!),
      )
        .sort((a, b) => a - b)
        .map(value => Math.round(value * 10)),
    ).toEqual([5, 5, 5, 5, 20, 20, 20, 20, 30, 30, 30, 30])
    expect(foldEdges([made({ shape: 'cylinder' })], identity()).length / 6).toBe(96)
  })
})

describe('what stands for the plate', () => {
  const camera = lookAt([0, 1.5, 6], [0, 0.6, 0], 35)
  const plate = (pick: (u: number, v: number) => [number, number, number]): PlateLight => {
    const pixels = new Float32Array(64 * 64 * 4)
    for (let y = 0; y < 64; y++)
      for (let x = 0; x < 64; x++) pixels.set([...pick((x + 0.5) / 64, (y + 0.5) / 64), 1], (y * 64 + x) * 4)
    return { pixels, width: 64, height: 64, camera }
  }
  const mirror = material({ metallic: 1, roughness: 0 })
  it('is mirrored in things with the light that the plate shows', () => {
    const passes = renderScene(
      scene(
        [object('ground', ground(40), { role: 'catcher', ofPlate: true }), object('ball', ball([0, 0.8, 0], 0.8), {})],
        { materials: [mirror], environment: constantEnvironment(), plate: plate(() => [0.3, 0.2, 0.1]) },
      ),
      { camera, samples: 64, width: 48, height: 48, maxBounces: 4 },
    )
    // The lower part of the ball mirrors nothing but the ground
    const low = (i: number): boolean => Math.floor(i / 48) > 26 && passes.alpha[i]! > 0.999
    ;[0.3, 0.2, 0.1].forEach((value, c) =>
      expect(Math.abs(mean(passes.light!.reflection, 3, c, low) / value - 1)).toBeLessThan(0.01),
    )
  })
  it('is taken from where the camera sees it: a wall behind a mirror shows its own half', () => {
    // A mirror lying on the ground shows the wall upright behind it, left stays left
    const wall = quad([-6, 0, -2], [6, 0, -2], [6, 5, -2], [-6, 5, -2])
    const passes = renderScene(
      scene(
        [
          object('wall', wall, { role: 'catcher', ofPlate: true }),
          object('mirror', quad([-1, 0.01, 1], [1, 0.01, 1], [1, 0.01, -1], [-1, 0.01, -1])),
        ],
        {
          materials: [mirror],
          environment: constantEnvironment(0),
          plate: plate(u => (u < 0.5 ? [1, 0, 0] : [0, 1, 0])),
        },
      ),
      { camera, samples: 32, width: 48, height: 48, maxBounces: 4 },
    )
    const inside =
      (left: boolean) =>
      (i: number): boolean =>
        passes.alpha[i]! > 0.999 && (left ? i % 48 < 21 : i % 48 > 26)
    expect(mean(passes.light!.reflection, 3, 0, inside(true))).toBeGreaterThan(0.9)
    expect(mean(passes.light!.reflection, 3, 1, inside(true))).toBeLessThan(0.02)
    expect(mean(passes.light!.reflection, 3, 1, inside(false))).toBeGreaterThan(0.9)
  })
  it('holds out what is behind it, unless it lets things through; each catcher has its number', () => {
    const render = (letsThrough: boolean) =>
      renderScene(
        scene(
          [
            object('wall', quad([-3, 0, 1], [0, 0, 1], [0, 3, 1], [-3, 3, 1]), { role: 'catcher', letsThrough }),
            object('ground', ground(20), { role: 'catcher' }),
            object('thing', quad([-2, 0, 0], [2, 0, 0], [2, 2, 0], [-2, 2, 0])),
          ],
          { environment: constantEnvironment() },
        ),
        { camera, samples: 16, width: 48, height: 48, maxBounces: 1 },
      )
    const held = render(false)
    const open = render(true)
    const left = (i: number): boolean =>
      i % 48 > 14 && i % 48 < 20 && Math.floor(i / 48) > 18 && Math.floor(i / 48) < 24
    expect(mean(held.alpha, 1, 0, left)).toBe(0)
    expect(mean(open.alpha, 1, 0, left)).toBeGreaterThan(0.99)
    expect(held.catcherId[20 * 48 + 16]).toBe(1)
    expect(held.catcherId[44 * 48 + 40]).toBe(2)
  })
})

describe('a picture laid on a thing', () => {
  // Left red, right green, top half dark
  const texture: Texture = {
    width: 32,
    height: 32,
    wrapS: 'clamp',
    wrapT: 'clamp',
    pixels: Uint8Array.from({ length: 4096 }, (_, i) =>
      i % 4 === 3 ? 255 : (Math.floor(i / 4) % 32 < 16 ? 0 : 1) !== i % 4 ? 0 : i < 2048 ? 128 : 255,
    ),
  }
  const settings = (change: Partial<PrintSettings> = {}): Unplaced<PrintSettings> => ({
    id: 'p',
    name: 'p',
    on: 'box',
    shown: true,
    picture: {} as never,
    from: 'front',
    matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 1, 0, 1],
    tangent: 0,
    size: 1,
    turn: 0,
    shiftX: 0,
    shiftY: 0,
    opacity: 1,
    instead: false,
    roughness: null,
    ...change,
  })
  const box = standInPart({ shape: 'box', width: 2, height: 2, depth: 2, points: [] }, 0)
  const albedoAt = (
    u: number,
    v: number,
    matrix: number[],
    print: Unplaced<PrintSettings>,
    camera = lookAt([0, 1, 8], [0, 1, 0], 50),
  ): number[] => {
    const passes = renderScene(
      scene([object('box', box, { matrix, prints: [printAt(print, texture, matrix, 1)] })], {
        materials: [material({ baseColour: [0.5, 0.5, 0.5, 1] })],
        environment: constantEnvironment(),
      }),
      { camera, samples: 8, width: 48, height: 48, maxBounces: 1 },
    )
    const i = (Math.floor(v * 48) * 48 + Math.floor(u * 48)) * 3
    return [...passes.albedo.subarray(i, i + 3)].map(value => Math.round(value * 100) / 100)
  }
  it('stands upright and unmirrored on its front, once; the rest stays as it was', () => {
    const seen = (u: number, v: number): number[] => albedoAt(u, v, identity(), settings())
    expect(seen(0.45, 0.56)).toEqual([1, 0, 0])
    expect(seen(0.55, 0.56)).toEqual([0, 1, 0])
    expect(seen(0.45, 0.44)[0]).toBeLessThan(0.3)
    expect(seen(0.35, 0.5)).toEqual([0.5, 0.5, 0.5])
  })
  it('is not on the back, nor on the sides', () => {
    expect(albedoAt(0.45, 0.56, rotationFromDegrees(180, 0, 0), settings())).toEqual([0.5, 0.5, 0.5])
    expect(albedoAt(0.45, 0.55, rotationFromDegrees(90, 0, 0), settings())).toEqual([0.5, 0.5, 0.5])
  })
  it('goes with the thing, is turned, shifted and scaled', () => {
    // Half a turn in its plane: left and right, top and bottom change places
    expect(albedoAt(0.45, 0.44, identity(), settings({ turn: 180 }))).toEqual([0, 1, 0])
    // One width to the left: its right half covers where its left edge was
    expect(albedoAt(0.44, 0.56, identity(), settings({ shiftX: -0.6 }))[1]).toBeGreaterThan(0.9)
    expect(albedoAt(0.38, 0.58, identity(), settings({ size: 2 }))).toEqual([1, 0, 0])
    expect(
      albedoAt(0.52, 0.56, multiply([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0.3, 0, 0, 1], identity()), settings()),
    ).toEqual([1, 0, 0])
  })
  it('thrown from the camera lies where the camera would show it, whatever it falls on', () => {
    const camera = lookAt([1.5, 1.8, 8], [0, 1, 0], 50)
    const tangent = 18 / 50
    const print = settings({ from: 'camera', matrix: camera.matrix, tangent, size: 0.3 })
    // The picture fills the middle 0.3 of the view: its corners of colour lie there on any turned thing
    for (const heading of [0, 30, -50]) {
      const matrix = rotationFromDegrees(heading, 0, 0)
      const own = { ...print, matrix: multiply(inverseOf(matrix), camera.matrix) }
      expect(albedoAt(0.44, 0.56, matrix, own, camera), String(heading)).toEqual([1, 0, 0])
      expect(albedoAt(0.56, 0.56, matrix, own, camera), String(heading)).toEqual([0, 1, 0])
    }
  })
  it('lies on what it meets first, not a second time on what stands behind', () => {
    const front = quad([-1, 0, 1], [0, 0, 1], [0, 2, 1], [-1, 2, 1])
    const back = quad([-1, 0, -1], [1, 0, -1], [1, 2, -1], [-1, 2, -1])
    const both = {
      positions: Float32Array.from([...front.positions, ...back.positions]),
      normals: Float32Array.from([...front.normals!, ...back.normals!]),
      indices: Uint32Array.from([...front.indices, ...[...back.indices].map(index => index + 4)]),
      material: 0,
    }
    const camera = lookAt([6, 1, 8], [0, 1, -1], 60)
    const camera3 = (p: Vector3): [number, number] => {
      const m = camera.matrix
      const d = p.map((value, k) => value - m[12 + k]!)
      const at = (k: number): number => d[0]! * m[k]! + d[1]! * m[k + 1]! + d[2]! * m[k + 2]!
      return [0.5 + at(0) / -at(8) / (18 / 60) / 2, 0.5 - at(4) / -at(8) / (18 / 60) / 2]
    }
    const passes = renderScene(
      scene([object('two walls', both, { prints: [printAt(settings({ size: 2 }), texture, identity(), 1)] })], {
        materials: [material({ baseColour: [0.5, 0.5, 0.5, 1] })],
        environment: constantEnvironment(),
      }),
      { camera, samples: 8, width: 96, height: 96, maxBounces: 1 },
    )
    const seen = (p: Vector3): number[] => {
      const [u, v] = camera3(p)
      const i = (Math.floor(v * 96) * 96 + Math.floor(u * 96)) * 3
      return [...passes.albedo.subarray(i, i + 3)].map(value => Math.round(value * 100) / 100)
    }
    expect(seen([-0.5, 0.5, 1])).toEqual([1, 0, 0])
    expect(seen([0.5, 0.5, -1])).toEqual([0, 1, 0])
    expect(seen([-0.4, 0.5, -1])).toEqual([0.5, 0.5, 0.5])
  })
  it('has its own roughness and takes the metal away where it stands in place of the material', () => {
    const metal = material({ metallic: 1, roughness: 0.1, baseColour: [0.5, 0.5, 0.5, 1] })
    const reflected = (instead: boolean): number => {
      const matrix = identity()
      const passes = renderScene(
        scene(
          [
            object('box', box, {
              matrix,
              prints: [printAt(settings({ instead, roughness: 1, size: 3 }), texture, matrix, 1)],
            }),
          ],
          { materials: [metal], environment: constantEnvironment() },
        ),
        { camera: lookAt([0, 1, 8], [0, 1, 0], 80), samples: 64, width: 24, height: 24, maxBounces: 1 },
      )
      return mean(passes.light!.diffuse_direct, 3, 1, i => i % 24 > 13 && passes.alpha[i]! > 0.99)
    }
    expect(reflected(false)).toBe(0)
    expect(reflected(true)).toBeGreaterThan(0.3)
  })
  it('inverse matrices undo', () => {
    const m = multiply([2, 0, 0, 0, 0, 3, 0, 0, 0, 0, 0.5, 0, 1, -2, 3, 1], rotationFromDegrees(20, 30, 40))
    const p: Vector3 = [0.3, -1, 2]
    transformPoint(inverseOf(m), transformPoint(m, p)).forEach((value, k) => expect(value).toBeCloseTo(p[k]!, 10))
    expect(inverseOf([1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1])).toEqual(identity())
  })
})
