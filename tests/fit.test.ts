// Things brought in stand where the camera sees them. Expectations are from pinhole geometry, worked out by hand.
import { describe, expect, it } from 'vitest'
import { cornersOf, fitBefore, standingOf } from '../core/match/fit'
import { groundGrid, placeAt, project } from '../core/match/project'
import { readGltf } from '../core/formats/gltf/gltf'
import type { Box } from '../core/scene/bounds'
import type { Scene } from '../core/scene/scene'
import { identity, type Vector3 } from '../core/scene/vector'
import { DEFAULT_CAMERA, newDocument, type CameraSettings } from '../core/shot/document'
import { bringIntoView, placeFile, putOn } from '../core/shot/fit'
import { placedScene } from '../core/shot/filePlace'
import { cameraAt, fileSceneAt, sceneAt, worldBox } from '../core/shot/scene'

const ASPECT = 1.5
const look = (settings: Partial<CameraSettings> = {}) => cameraAt({ ...DEFAULT_CAMERA, ...settings }, 1)
const box = (size: number, at: Vector3 = [0, 0, 0]): Box => ({
  low: [at[0] - size / 2, at[1], at[2] - size / 2],
  high: [at[0] + size / 2, at[1] + size, at[2] + size / 2],
})
const grownBox = (own: Box, foot: Vector3, times: number): Box => {
  const size = own.high.map((value, k) => (value - own.low[k]!) * times)
  return {
    low: [foot[0] - size[0]! / 2, foot[1], foot[2] - size[2]! / 2],
    high: [foot[0] + size[0]! / 2, foot[1] + size[1]!, foot[2] + size[2]! / 2],
  }
}

describe('how a thing stands in the frame', () => {
  it('a sheet of 36 cm square on, a metre away under 35 on 36 mm, is 0.35 of the width and 0.525 of the height', () => {
    const flat: Box = { low: [-0.18, 1.62 - 0.18, -1], high: [0.18, 1.62 + 0.18, -1] }
    const found = standingOf(look(), ASPECT, cornersOf(flat))
    expect(found.share).toBeCloseTo(0.35 * ASPECT, 9)
    expect([found.seen, found.whole, found.around]).toEqual([true, true, false])
  })
  it('under the camera, behind it, beside it: out of view, with the way there', () => {
    const under = standingOf(look(), ASPECT, cornersOf(box(0.09)))
    expect(under.seen).toBe(false)
    expect(under.towards[1]).toBeGreaterThan(0.9)
    const left = standingOf(look(), ASPECT, cornersOf(box(0.1, [-20, 1.6, -2])))
    expect(left.seen).toBe(false)
    expect(left.towards[0]).toBeCloseTo(-1, 2)
    const behind = standingOf(look(), ASPECT, cornersOf(box(0.5, [3, 1, 5])))
    expect([behind.seen, behind.share]).toEqual([false, 0])
    expect(behind.towards[0]).toBeGreaterThan(0.9)
    // A turn of the camera by a quarter to the left brings what was left of it before it
    expect(standingOf(look({ heading: 90 }), ASPECT, cornersOf(box(0.5, [-8, 1.5, 0]))).seen).toBe(true)
  })
  it('a set that the camera stands in is around it', () => {
    const room: Box = { low: [-5, 0, -5], high: [5, 3, 5] }
    expect(standingOf(look(), ASPECT, cornersOf(room))).toMatchObject({ around: true, seen: true })
  })
})

describe('where it is put', () => {
  const CAMERAS: [string, Partial<CameraSettings>][] = [
    ['level at eye height', {}],
    ['from above at a cup', { y: 0.45, pitch: -62 }],
    ['from a roof', { y: 25, pitch: -20, heading: 130 }],
    ['up at the sky', { pitch: 50 }],
    ['long lens', { focalLength: 200, pitch: -2 }],
  ]
  for (const [name, settings] of CAMERAS)
    for (const size of [1e-4, 0.004, 0.09, 1.8, 40, 900, 2e5])
      it(`${name}, ${size} m: whole in the frame, neither speck nor wall`, () => {
        const camera = look(settings)
        const { foot, times, onGround } = fitBefore(camera, ASPECT, box(size))
        const found = standingOf(camera, ASPECT, cornersOf(grownBox(box(size), foot, times)))
        expect(found.whole).toBe(true)
        expect(found.share).toBeGreaterThan(0.035)
        expect(found.share).toBeLessThan(0.95)
        expect(onGround).toBe(name !== 'up at the sky')
        if (onGround) expect(foot[1]).toBeCloseTo(0, 6)
      })
  it('a plausible size stays: a cup of 9 cm from 45 cm above, a person of 1.8 m at eye height', () => {
    expect(fitBefore(look({ y: 0.45, pitch: -62 }), ASPECT, box(0.09)).times).toBe(1)
    expect(fitBefore(look(), ASPECT, box(1.8)).times).toBe(1)
  })
  it('a file in centimetres or millimetres comes to metres', () => {
    expect(fitBefore(look(), ASPECT, box(180)).times).toBe(0.01)
    expect(fitBefore(look(), ASPECT, box(1800)).times).toBe(0.001)
  })
})

describe('a scene file in a shot', () => {
  const cube = (matrix = identity()): Scene => ({
    objects: [
      {
        name: 'cube',
        matrix,
        parts: [
          {
            positions: new Float32Array(cornersOf(box(0.09)).flat()),
            indices: new Uint32Array([0, 1, 2, 1, 3, 2]),
            material: 0,
          },
        ],
        role: 'object',
        hidden: false,
        absent: false,
      },
    ],
    materials: [
      {
        name: 'glass',
        baseColour: [1, 1, 1, 1],
        metallic: 0,
        roughness: 0,
        emission: [0, 0, 0],
        alphaMode: 'opaque',
        alphaCutoff: 0.5,
        normalScale: 1,
        doubleSided: false,
        solid: { absorption: [2, 4, 6] },
      },
    ],
    lights: [
      { kind: 'point', name: 'lamp', position: [0, 1, 0], intensity: [1, 2, 3] },
      { kind: 'sun', name: 'sun', direction: [0, -1, 0], diameter: 0.5, irradiance: [1, 1, 1] },
    ],
    cameras: [],
    notes: [],
  })
  it('of 9 cm at the origin, under the camera, it is put before it and the words say so', () => {
    const document = newDocument()
    const scene = cube()
    const words = placeFile(document, scene, 1)!
    expect(words).toMatch(/^It measures 9 cm in its file, too small .* on the ground before the camera, 10 times/)
    expect(document.scene.filePlace!.times).toBe(10)
    const now = sceneAt(document, { scene }, 1)
    const standing = standingOf(look(), ASPECT, cornersOf(worldBox(now.objects[0]!, now.objects[0]!.matrix)))
    expect(standing.whole).toBe(true)
    // Once it stands well it is left alone
    expect(placeFile(document, scene, 1)).toBeUndefined()
  })
  it('one that lies far from its own origin is put there just as well', () => {
    for (const at of [
      [40, 3, -7],
      [-900, -20, 15],
    ]) {
      const document = newDocument()
      const off = identity()
      off.splice(12, 3, ...at)
      const scene = cube(off)
      expect(placeFile(document, scene, 1)).toBeTruthy()
      const [now] = sceneAt(document, { scene }, 1).objects
      const own = worldBox(now!, now!.matrix)
      expect(standingOf(look(), ASPECT, cornersOf(own)).whole).toBe(true)
      expect(own.low[1]).toBeCloseTo(0, 3)
    }
  })
  it('things that belong together grow about their common foot', () => {
    const document = newDocument()
    const things = [
      {
        name: 'left',
        position: [-1, 0, 0] as Vector3,
        low: [-1.5, 0, -0.5] as Vector3,
        high: [-0.5, 1, 0.5] as Vector3,
      },
      { name: 'right', position: [1, 2, 0] as Vector3, low: [0.5, 2, -0.5] as Vector3, high: [1.5, 3, 0.5] as Vector3 },
    ]
    document.scene.objects = { left: { scale: 2 } }
    putOn(document, things, [10, 5, -4], 3, 1)
    const { left, right } = document.scene.objects
    expect([left!.position, left!.scale]).toEqual([[7, 5, -4], 6])
    expect([right!.position, right!.scale]).toEqual([[13, 11, -4], 3])
  })
  it('one that is seen well as it is stays as it is', () => {
    const document = newDocument()
    const away = identity()
    away[14] = -0.5
    away[13] = 1.5
    expect(placeFile(document, cube(away), 1)).toBeUndefined()
    expect(document.scene.filePlace).toBeUndefined()
  })
  it('its lamps light it as before, its glass takes as much, at all times', () => {
    const scene = { ...cube(), at: () => cube() }
    const place = { at: [1, 2, 3] as Vector3, times: 10 }
    for (const now of [placedScene(scene, place), placedScene(scene, place).at!(2)]) {
      expect(now.lights[0]).toMatchObject({ position: [1, 12, 3], intensity: [100, 200, 300] })
      expect(now.lights[1]).toEqual(scene.lights[1])
      const { absorption } = now.materials[0]!.solid!
      expect(absorption.map(value => Number(value.toFixed(9)))).toEqual([0.2, 0.4, 0.6])
      expect(now.objects[0]!.matrix).toEqual([10, 0, 0, 0, 0, 10, 0, 0, 0, 0, 10, 0, 1, 2, 3, 1])
    }
  })
  it('a camera of the file keeps no size, and sees the same picture', async () => {
    const bytes = new TextEncoder().encode(
      JSON.stringify({
        asset: { version: '2.0' },
        scene: 0,
        scenes: [{ nodes: [0] }],
        nodes: [{ camera: 0, translation: [0, 0.1, 0.5], rotation: [-0.05, 0, 0, 0.99875] }],
        cameras: [{ type: 'perspective', perspective: { yfov: 0.7, aspectRatio: 1.5, znear: 0.1 } }],
      }),
    )
    const scene = await readGltf(bytes)
    const document = {
      ...newDocument(),
      scene: { ...newDocument().scene, filePlace: { at: [4, 0, 2] as Vector3, times: 7 } },
    }
    const { camera } = fileSceneAt(document, { scene }, 1)!
    const before = project(scene.camera!, ASPECT, [0.02, 0.03, -0.2])
    const after = project(camera!, ASPECT, [0.02 * 7 + 4, 0.03 * 7, -0.2 * 7 + 2])
    expect([after.u, after.v, after.metres / 7]).toEqual(
      [before.u, before.v, before.metres].map(value => expect.closeTo(value, 9)),
    )
  })
})

it('a group is brought into view together, what is locked stays', () => {
  const document = newDocument()
  document.scene.objects.fixed = { locked: true }
  const things = [
    { name: 'a', position: [0, 0, 0] as Vector3, ...box(1, [0, 0, 0]) },
    { name: 'b', position: [0.5, 1, 0] as Vector3, ...box(0.2, [0.5, 1, 0]) },
    { name: 'fixed', position: [0, 0, 0.2] as Vector3, ...box(0.2, [0, 0, 0.2]) },
  ]
  const words = bringIntoView(document, things, 1)
  expect(words).toBe('It stands on the ground before the camera.')
  const { a, b, fixed } = document.scene.objects
  expect(fixed).toEqual({ locked: true })
  const moved = b!.position!.map((value, k) => Number(((value as number) - (a!.position![k] as number)).toFixed(4)))
  expect(moved).toEqual([0.5, 1, 0])
})

describe('the grid on the ground', () => {
  for (const [y, pitch, focalLength, step] of [
    [0.02, -60, 50, 0.001],
    [0.4, -60, 50, 0.01],
    [1.62, 0, 35, 1],
    [30, -30, 35, 10],
    [4000, -60, 35, 1000],
  ] as const)
    it(`from ${y} m it has steps of ${step} m`, () => {
      const grid = groundGrid(look({ y, pitch, focalLength }), ASPECT)
      expect(grid.step).toBeCloseTo(step, 9)
      expect(grid.lines.length).toBeGreaterThan(20)
    })
})

it('a place is found again by its metres', () => {
  const camera = look({ pitch: -20, heading: 33, shiftX: 0.2, shiftY: -0.1 })
  const point: Vector3 = [-1.2, 0.3, -4]
  const { u, v, metres } = project(camera, ASPECT, point)
  expect(placeAt(camera, ASPECT, u, v, metres)).toEqual(point.map(value => expect.closeTo(value, 9)))
})
