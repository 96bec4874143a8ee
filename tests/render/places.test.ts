// Meshes that stand in several places: the same picture as copies of them laid out one by one, at the memory of one.
import { describe, expect, it } from 'vitest'
import { Kernels } from '../../core/engine/memory'
import { compileScene } from '../../core/render/compile'
import type { SceneObject } from '../../core/scene/scene'
import { compose, multiply, rotationFromDegrees, type Matrix4, type Vector3 } from '../../core/scene/vector'
import { kernelModule } from '../../host/engine'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, renderScene, scene } from '../scenes'

const turned = (place: Vector3, degrees: number, size: Vector3 = [1, 1, 1]): Matrix4 =>
  multiply(
    multiply(compose(place, [0, 0, 0, 1], [1, 1, 1]), rotationFromDegrees(degrees, degrees * 0.7, 10)),
    compose([0, 0, 0], [0, 0, 0, 1], size),
  )
/** Balls in rows: turned, stretched, every third one mirrored. `own`: each with a mesh of its own. */
function crowd(own: boolean, change: (index: number) => Partial<SceneObject> = () => ({})): SceneObject[] {
  const mesh = ball([0, 0.1, 0], 0.5, 24, 1)
  return Array.from({ length: 12 }, (_, i) =>
    object(`ball ${i}`, own ? { ...mesh, positions: mesh.positions.slice() } : mesh, {
      matrix: turned([(i % 4) * 1.2 - 1.8, 0.6, -Math.floor(i / 4) * 1.3], i * 31, [i % 3 ? 1 : -1, 0.8 + i * 0.03, 1]),
      ...change(i),
    }),
  )
}
const checks = {
  width: 2,
  height: 2,
  pixels: Uint8Array.from([255, 255, 255, 255, 90, 120, 255, 128, 200, 90, 60, 255, 255, 255, 255, 255]),
  wrapS: 'repeat',
  wrapT: 'repeat',
} as const
const materials = [material(), material({ name: 'checked', baseTexture: checks, roughness: 0.4, alphaMode: 'blend' })]
const camera = lookAt([0.6, 2.2, 5], [0, 0.4, -1.2], 40)
const floor = object('floor', ground(6))
const passes = [
  'beauty',
  'alpha',
  'albedo',
  'normal',
  'depth',
  'position',
  'uv',
  'occlusion',
  'facing',
  'object_id',
  'crypto_object',
  'crypto_material',
] as const
const lights = [
  { kind: 'sun', name: 'sun', direction: [-0.4, -0.8, -0.3], diameter: 0.5, irradiance: [3, 3, 3] },
] as never

describe('twelve balls from one mesh', () => {
  const settings = { camera, width: 96, height: 64, samples: 64, passes, seed: 3 } as const
  const [one, many] = [false, true].map(own =>
    renderScene(scene([...crowd(own), floor], { materials, lights, environment: constantEnvironment(0.3) }), settings),
  ) as [ReturnType<typeof renderScene>, ReturnType<typeof renderScene>]
  it('have the data of twelve meshes', () => {
    let same = 0
    for (let i = 0; i < 96 * 64; i++) {
      if (one.objectId[i] === many.objectId[i]) same++
      else continue
      if (many.depth[i]! < 1e9) expect(Math.abs(one.depth[i]! - many.depth[i]!)).toBeLessThan(2e-3)
    }
    // A ray through the rim may meet one and miss the other by rounding
    expect(same).toBeGreaterThan(96 * 64 - 6)
    for (const plane of ['alpha', 'albedo', 'normal', 'facing', 'uv', 'position'] as const) {
      let off = 0
      for (let i = 0; i < many[plane].length; i++) if (Math.abs(one[plane][i]! - many[plane][i]!) > 0.02) off++
      expect(off / many[plane].length, plane).toBeLessThan(2e-3)
    }
  })
  it('have their light, shadows and occlusion', () => {
    for (const part of ['diffuse_direct', 'diffuse_indirect', 'reflection'] as const)
      for (const c of [0, 1, 2]) expect(mean(one.light[part], 3, c) / mean(many.light[part], 3, c)).toBeCloseTo(1, 2)
    expect(mean(one.occlusion, 1) / mean(many.occlusion, 1)).toBeCloseTo(1, 3)
  })
  it('are told apart by name', () => {
    const seen = (coverage: typeof one.coverage.crypto_object): Set<number> =>
      new Set(coverage!.index.filter(index => index > 0))
    expect([...seen(one.coverage.crypto_object)].sort()).toEqual([...seen(many.coverage.crypto_object)].sort())
    expect(seen(one.coverage.crypto_object).size).toBe(13)
  })
})

it('each place keeps its own role and switches', () => {
  const change = (i: number): Partial<SceneObject> =>
    i % 4 === 0 ? { hidden: true } : i % 4 === 1 ? { role: 'holdout' } : i % 4 === 2 ? { darkens: false } : {}
  const [one, many] = [false, true].map(own =>
    renderScene(
      scene(
        [
          ...crowd(own, change),
          ...crowd(own).map((thing, i) => ({
            ...thing,
            name: `more ${i}`,
            matrix: multiply(compose([0.1, 1.4, 0], [0, 0, 0, 1], [1, 1, 1]), thing.matrix),
            ...change(i),
          })),
          floor,
        ],
        { materials, lights, environment: constantEnvironment(0.3) },
      ),
      { camera, width: 64, height: 48, samples: 32, passes: ['alpha', 'occlusion', 'object_id'] },
    ),
  ) as [ReturnType<typeof renderScene>, ReturnType<typeof renderScene>]
  expect([...one.objectId].filter((id, i) => id !== many.objectId[i]).length).toBeLessThan(6)
  expect(mean(one.alpha, 1)).toBeCloseTo(mean(many.alpha, 1), 3)
  expect(mean(one.occlusion, 1)).toBeCloseTo(mean(many.occlusion, 1), 3)
})

it('places that move have the motion of meshes that move', () => {
  const at = (own: boolean, shift: number) =>
    scene(
      [
        ...crowd(own).map((thing, i) => ({
          ...thing,
          matrix: multiply(
            compose([shift * (1 + i * 0.1), 0, 0], [0, 0, 0, 1], [1, 1, 1]),
            multiply(thing.matrix, rotationFromDegrees(shift * 40, 0, 0)),
          ),
        })),
        floor,
      ],
      { materials },
    )
  const [one, many] = [false, true].map(own => {
    // A file that is read at several times keeps its meshes; each of these has its own for each time
    const [before, now, after] = [-0.1, 0, 0.1].map(shift => at(own, shift)) as [
      ReturnType<typeof at>,
      ReturnType<typeof at>,
      ReturnType<typeof at>,
    ]
    if (!own)
      for (const other of [before, after])
        other.objects.forEach((thing, i) => {
          thing.parts = now.objects[i]!.parts
        })
    return renderScene(
      now,
      {
        camera,
        width: 64,
        height: 48,
        samples: 4,
        passes: ['motion_forward', 'motion_back', 'object_id'],
        moving: { previous: camera, next: camera },
      },
      { previous: before, next: after },
    )
  }) as [ReturnType<typeof renderScene>, ReturnType<typeof renderScene>]
  expect(Math.max(...many.motionForward)).toBeGreaterThan(2)
  let off = 0
  for (const plane of ['motionForward', 'motionBack'] as const)
    many[plane].forEach((value, i) => {
      if (Math.abs(one[plane][i]! - value) > 0.02) off++
    })
  expect(off).toBeLessThan(16)
})

it('ten thousand places of a mesh take the memory of one and less than 300 bytes each', () => {
  const kernels = new Kernels(kernelModule())
  const mesh = ball([0, 0, 0], 0.3, 32, 0)
  const used = (count: number): number => {
    const before = kernels.used
    const compiled = compileScene(
      kernels,
      scene(
        Array.from({ length: count }, (_, i) =>
          object(`stone ${i}`, mesh, { matrix: turned([i % 100, 0, -Math.floor(i / 100)], i) }),
        ),
      ),
    )
    const bytes = kernels.used - before
    expect(compiled.triangles).toBe((count * mesh.indices.length) / 3)
    compiled.dispose()
    expect(kernels.used).toBe(before)
    return bytes
  }
  const alone = used(1)
  const all = used(10_000)
  expect((all - alone) / 10_000).toBeLessThan(300)
  expect(all).toBeLessThan(alone + 3_000_000)
})

it('a place without thickness is laid out by itself', () => {
  const mesh = ball([0, 0, 0], 0.5, 32, 0)
  const places = [
    [1, 1, 1],
    [1, 0, 1],
    [1, 1, 1],
    [1, 1, 1],
  ].map((size, i) =>
    object(`thing ${i}`, mesh, { matrix: compose([i * 1.5 - 2.25, 0, 0], [0, 0, 0, 1], size as Vector3) }),
  )
  const { objectId } = renderScene(scene(places), {
    camera: lookAt([0, 3, 4], [0, 0, 0], 30),
    width: 64,
    height: 32,
    samples: 1,
    passes: ['object_id'],
  })
  expect(new Set(objectId)).toEqual(new Set([0, 1, 2, 3, 4]))
})
