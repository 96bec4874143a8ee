// Occlusion by reach, falloff and cone, shadows on objects and of chosen ones, wet ground, mist: against closed forms.
import { describe, expect, it } from 'vitest'
import { NO_DEPTH } from '../../core/render/passes'
import type { SceneObject } from '../../core/scene/scene'
import type { Vector3 } from '../../core/scene/vector'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'

const down = lookAt([0, 0.4, 0], [0, 0, 0], 100)

describe('occlusion under a wide ceiling', () => {
  // Directions by the cosine: the share within an angle t of the normal is sin² t; the ceiling is h / cos t away
  const height = 1
  const open = (
    settings: object,
    change: Partial<SceneObject> = {},
    opacity = 1,
    floor: Partial<SceneObject> = {},
  ): number =>
    mean(
      renderScene(
        scene([object('floor', ground(0.5), floor), object('ceiling', ground(400, height, 1), change)], {
          materials: [
            material(),
            material({ baseColour: [1, 1, 1, opacity], alphaMode: opacity < 1 ? 'blend' : 'opaque' }),
          ],
        }),
        { camera: down, samples: 256, passes: ['occlusion'], ...settings },
      ).occlusion,
      1,
    )
  it.each([1.2, 2, 5])('reaching %d m, all alike: 1 - sin² t', reach => {
    expect(open({ occlusionReach: reach })).toBeCloseTo((height / reach) ** 2, 2)
  })
  it.each([
    [2, 1],
    [2, 2],
    [4, 1],
  ])('reaching %d m, falling off by %d', (reach, power) => {
    let dark = 0
    for (let i = 0, n = 20000; i < n; i++) {
      const far = height / Math.sqrt(1 - (i + 0.5) / n)
      if (far < reach) dark += (1 - far / reach) ** power / n
    }
    expect(open({ occlusionReach: reach, occlusionFalloff: power })).toBeCloseTo(1 - dark, 2)
  })
  it.each([30, 60])('in a cone of %d degrees', cone => {
    expect(open({ occlusionReach: 1.1, occlusionCone: cone })).toBeCloseTo(
      1 - Math.min(1, (1 - (1 / 1.1) ** 2) / Math.sin((cone * Math.PI) / 180) ** 2),
      2,
    )
  })
  it('by real opacity, with falloff and without', () => {
    expect(open({ occlusionReach: 1e6 }, {}, 0.4)).toBeCloseTo(0.6, 2)
    const whole = 1 - open({ occlusionReach: 3, occlusionFalloff: 1 })
    expect(open({ occlusionReach: 3, occlusionFalloff: 1 }, {}, 0.4)).toBeCloseTo(1 - whole * 0.4, 2)
  })
  it('not from what darkens nothing, nor on what is not darkened', () => {
    for (const falloff of [0, 1]) {
      expect(open({ occlusionReach: 50, occlusionFalloff: falloff }, { darkens: false })).toBe(1)
      expect(open({ occlusionReach: 50, occlusionFalloff: falloff }, {}, 1, { darkened: false })).toBe(1)
    }
  })
})

it('where real ground ends within a pixel, only its share of the plate is in shadow', () => {
  // Ground up to x = 0.3 of a pixel, all of it under a lid that lets no light through
  const half = object('ground', quad([-3, 0, 3], [0, 0, 3], [0, 0, -3], [-3, 0, -3]), { role: 'catcher' })
  const lid = object('lid', quad([-3, 1, 3], [3, 1, 3], [3, 1, -3], [-3, 1, -3]), { hidden: true })
  const { shadow, alpha } = renderScene(
    scene([half, lid], { lights: [{ kind: 'point', name: 'lamp', position: [0, 4, 0], intensity: [9, 9, 9] }] }),
    {
      camera: lookAt([0, 0.5, 0.001], [0, 0, 0], 36),
      width: 9,
      height: 9,
      samples: 256,
      filterRadius: 0.5,
      passes: ['shadow', 'alpha'],
    },
  )
  const row = Array.from({ length: 9 }, (_, x) => shadow[(4 * 9 + x) * 3]!)
  expect(alpha[40]).toBe(0)
  expect(row[0]).toBeCloseTo(0, 5)
  expect(row[8]).toBe(1)
  // The edge runs through the middle of the middle pixel
  expect(row[4]).toBeCloseTo(0.5, 1)
  // A solid thing before the edge changes nothing of what shows beside it
  const thing = object('post', quad([-0.02, 0.1, 0.05], [0.005, 0.1, 0.05], [0.005, 0.1, -0.05], [-0.02, 0.1, -0.05]))
  const beside = renderScene(
    scene([half, lid, thing], { lights: [{ kind: 'point', name: 'lamp', position: [0, 4, 0], intensity: [9, 9, 9] }] }),
    {
      camera: lookAt([0, 0.5, 0.001], [0, 0, 0], 36),
      width: 9,
      height: 9,
      samples: 256,
      filterRadius: 0.5,
      passes: ['shadow', 'alpha'],
    },
  )
  expect(beside.alpha[40]).toBeGreaterThan(0.3)
  expect(beside.shadow[40 * 3]).toBeGreaterThan(row[4]!)
})

describe('shadows', () => {
  // A point light 4 m up; sheets 2 m up throw shadows twice their size on the table
  const lamp = { kind: 'point' as const, name: 'lamp', position: [0, 4, 0] as Vector3, intensity: [5, 5, 5] as Vector3 }
  const sheet = (x: number, change: Partial<SceneObject> = {}, materialIndex = 0) =>
    object(
      `sheet ${x}`,
      quad([x - 0.25, 2, 0.25], [x + 0.25, 2, 0.25], [x + 0.25, 2, -0.25], [x - 0.25, 2, -0.25], materialIndex),
      { hidden: true, ...change },
    )
  const camera = lookAt([0, 3, 0], [0, 0, 0], ((36 / 2 / 1) * 3) / 2)
  const place = (passes: { width: number }, x: number): number => {
    const px = Math.floor((x / 4 + 0.5) * passes.width)
    return 16 * passes.width + px
  }
  const look = (objects: SceneObject[], role: 'object' | 'catcher' = 'object') =>
    renderScene(
      scene([object('table', ground(3), { role }), ...objects], {
        materials: [material(), material({ baseColour: [1, 1, 1, 0.3], alphaMode: 'blend' })],
        lights: [lamp],
      }),
      { camera, samples: 32, passes: ['shadow_objects', 'shadow_chosen', 'shadow', 'beauty'], maxBounces: 0 },
    )
  it('on objects are none where no light comes, one where all does, by opacity between', () => {
    const passes = look([sheet(-0.5), sheet(0.5, {}, 1)])
    expect(passes.shadowObjects[place(passes, -1) * 3]).toBe(0)
    expect(passes.shadowObjects[place(passes, 1) * 3]).toBeCloseTo(0.7, 5)
    expect(passes.shadowObjects[place(passes, 0) * 3]).toBe(1)
  })
  it.each(['object', 'catcher'] as const)('of chosen objects alone, on an ordinary %s', role => {
    const passes = look([sheet(-0.5, { ownShadow: true }), sheet(0.5)], role)
    expect(passes.shadowChosen[place(passes, -1) * 3]).toBe(0)
    expect(passes.shadowChosen[place(passes, 1) * 3]).toBe(1)
    if (role === 'catcher') expect(passes.shadow[place(passes, 1) * 3]).toBeCloseTo(0, 5)
  })
})

describe('wet ground', () => {
  // A shining ball over the ground, seen in it under 45 degrees
  const at = (wet: SceneObject['wet'], environment = 0, glow = 5) =>
    renderScene(
      scene(
        [
          object('ground', ground(30), { role: 'catcher', wet }),
          object('ball', ball([0, 3, -3], 1, 48, 1), { hidden: true }),
        ],
        {
          materials: [material(), material({ baseColour: [0, 0, 0, 1], metallic: 1, emission: [glow, glow, glow] })],
          environment: environment ? constantEnvironment(environment) : undefined,
        },
      ),
      { camera: lookAt([0, 3, 3], [0, 0, 0], 200), width: 16, height: 16, samples: 64, passes: ['wet'] },
    )
  // Fresnel at 45 degrees and n = 1.5: 0.0502 (handbook value, from memory)
  it('mirrors a shining thing by Fresnel’s share', () => {
    expect(mean(at({ amount: 1, roughness: 0 }).wet, 3) / 5).toBeCloseTo(0.0502, 2)
    expect(mean(at({ amount: 0.5, roughness: 0 }).wet, 3) / 5).toBeCloseTo(0.0251, 3)
  })
  it('takes away what the thing hides of the surroundings', () => {
    expect(mean(at({ amount: 1, roughness: 0 }, 2, 0).wet, 3) / 2).toBeCloseTo(-0.0502, 2)
  })
  it('mirrors nothing when it is dry', () => {
    expect(mean(at(undefined).wet, 3)).toBe(0)
    expect(mean(at({ amount: 0, roughness: 0 }).wet, 3)).toBe(0)
  })
})

it('mist rises smoothly with distance, is full where nothing is, and is what covers the pixel at edges', () => {
  const wall = (z: number, x0 = -50) => quad([x0, -50, z], [50, -50, z], [50, 50, z], [x0, 50, z])
  const camera = lookAt([0, 0, 0], [0, 0, -1], 50)
  const mist = { near: 2, far: 10 }
  const value = (z: number): number =>
    mean(renderScene(scene([object('wall', wall(-z))]), { camera, samples: 4, passes: ['mist'], mist }).mist, 1)
  for (const metres of [1, 2, 4, 6, 9, 10, 30]) {
    const t = Math.min(1, Math.max(0, (metres - 2) / 8))
    expect(value(metres)).toBeCloseTo(t * t * (3 - 2 * t), 4)
  }
  expect(
    [...renderScene(scene([]), { camera, samples: 4, passes: ['mist'], mist }).mist].every(value => value === 1),
  ).toBe(true)
  // Half of the pixels' middle column is wall at 4 m, half is nothing
  const edge = renderScene(scene([object('wall', wall(-4, 0))]), {
    camera,
    width: 31,
    height: 3,
    samples: 256,
    passes: ['mist', 'depth'],
    mist,
  })
  expect(edge.mist[31 + 15]).toBeCloseTo((1 + 0.25 * 0.25 * 2.5) / 2, 1)
  expect(Math.max(...edge.depth)).toBe(Math.fround(NO_DEPTH))
})
