// Light accents against the same lamp rendered, and against the lamp's own law on a plate's ground.
import { createHash } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Evaluator } from '../../core/compose/evaluate'
import { writePng } from '../../core/formats/png/png'
import { compileScene } from '../../core/render/compile'
import { passesToExr } from '../../core/render/passfile'
import { PASS_IDS } from '../../core/render/passes'
import { Render } from '../../core/render/render'
import type { RenderedPasses } from '../../core/render/planes'
import type { Light, Scene } from '../../core/scene/scene'
import { newDocument, type ShotDocument } from '../../core/shot/document'
import { addLayer, addRender, makeLayer } from '../../core/shot/layers'
import { settingsOfCamera } from '../../core/shot/scene'
import { startEngine, type Engine } from '../../host/engine'
import { documentFaults } from '../../shared/validate'
import { ball, constantEnvironment, ground, lookAt, material, object, quad, scene } from '../scenes'

const WIDTH = 96
const HEIGHT = 64
const files = new Map<string, Uint8Array>()
const keep = (bytes: Uint8Array): string => {
  const name = createHash('sha256').update(bytes).digest('hex')
  files.set(name, bytes)
  return name
}
const load = async (blob: string): Promise<Uint8Array> => files.get(blob)!
const camera = lookAt([0, 1.6, 0], [0, 0.9, -6], 35)
const LAMP = { x: -0.4, y: 1.7, z: -4.2 }
/** Nothing of it stands between the lamp and what is seen. */
const described = (lights: Light[]): Scene =>
  scene(
    [
      object('floor', ground(20, 0, 0)),
      object('wall', quad([-6, 0, -8], [6, 0, -8], [6, 6, -8], [-6, 6, -8], 1)),
      object('ball', ball([0.9, 0.6, -5.2], 0.6, 48, 2)),
    ],
    {
      materials: [
        material({ roughness: 0.75, baseColour: [0.6, 0.6, 0.6, 1] }),
        material({ name: 'red', baseColour: [0.7, 0.2, 0.15, 1], roughness: 0.7 }),
        material({ name: 'blue', baseColour: [0.2, 0.3, 0.8, 1], roughness: 0.8 }),
      ],
      environment: constantEnvironment(0.2),
      lights,
    },
  )
const INTENSITY = [4, 3, 1.5] as const
let engine: Engine
let dark: { passes: RenderedPasses; blob: string }
let lamplit: RenderedPasses
function render(lights: Light[], samples: number): { passes: RenderedPasses; blob: string } {
  const compiled = compileScene(engine.kernels, described(lights))
  const job = new Render(engine.pool, compiled, {
    ...{ width: WIDTH, height: HEIGHT, samples, passes: PASS_IDS, camera, seed: 3 },
  })
  while (!job.done) job.step(5)
  const passes = structuredClone(job.snapshot())
  const blob = keep(
    passesToExr(passes, {
      passes: PASS_IDS,
      objectNames: ['floor', 'wall', 'ball'],
      materialNames: ['white', 'red', 'blue'],
      lightGroups: compiled.lightGroups,
    }),
  )
  job.dispose()
  compiled.dispose()
  return { passes, blob }
}
beforeAll(async () => {
  engine = await startEngine(2)
  dark = render([], 64)
  lamplit = render(
    [{ kind: 'point', name: 'lamp', position: [LAMP.x, LAMP.y, LAMP.z], intensity: [...INTENSITY] }],
    64,
  ).passes
})
afterAll(() => {
  engine.stop()
})

/** The shot, its render without the lamp, with an accent where that was. */
function shot(change: Record<string, unknown> = {}, withRender = true): ShotDocument {
  const document = newDocument(WIDTH, HEIGHT)
  Object.assign(document.scene.camera, settingsOfCamera(camera))
  const grey = new Uint8Array(WIDTH * HEIGHT * 3).fill(128)
  document.plate = {
    blob: keep(writePng({ width: WIDTH, height: HEIGHT, channels: 3, maximum: 255, data: grey })),
    ...{ name: 'plate.png', encoding: 'linear', alpha: 'none' as const, width: WIDTH, height: HEIGHT },
  }
  const file = {
    ...{ blob: dark.blob, name: 'dark.exr', width: WIDTH, height: HEIGHT, passes: [...PASS_IDS], of: '' },
    ...{ objects: ['floor', 'wall', 'ball'], materials: ['white', 'red', 'blue'] },
  }
  const of = withRender ? addRender(document, file, 'room') : undefined
  const most = Math.max(...INTENSITY)
  addLayer(
    document,
    makeLayer('accent', {
      ...{ ...LAMP, colour: INTENSITY.map(part => part / most), stops: Math.log2(most), radius: 0.001, halo: 0 },
      ...(of ? { of } : {}),
      ...change,
    }),
  )
  expect(documentFaults(document)).toEqual([])
  return document
}
async function pixels(document: ShotDocument): Promise<Float32Array> {
  const raster = await new Evaluator(engine.pool, load, 2 ** 28).evaluate({
    ...{ document, frame: 1, shrink: 1, show: { kind: 'build' } },
  })
  return engine.kernels.floats(raster.pointer, WIDTH * HEIGHT * 4).slice()
}
const without = (document: ShotDocument): ShotDocument => {
  const next = structuredClone(document)
  for (const layer of Object.values(next.build.layers)) if (layer.kind === 'accent') layer.on = false
  return next
}

describe('on a render', () => {
  it('adds what the same lamp renders, direct and unshadowed', async () => {
    const [lit, bare] = [await pixels(shot()), await pixels(without(shot()))]
    const ratios: Record<string, number[]> = { floor: [], wall: [], ball: [] }
    const light = lamplit.light!.diffuse_direct!
    const before = dark.passes.light!.diffuse_direct!
    for (let y = 1; y < HEIGHT - 1; y++)
      for (let x = 1; x < WIDTH - 1; x++) {
        const i = y * WIDTH + x
        const name = ['', 'floor', 'wall', 'ball'][lamplit.objectId![i]!]!
        // Well within one thing
        const around = [i - 1, i + 1, i - WIDTH, i + WIDTH]
        if (!name || around.some(other => lamplit.objectId![other] !== lamplit.objectId![i])) continue
        const [added, expected] = [0, 1, 2].reduce(
          ([a, e], c) => [a! + lit[i * 4 + c]! - bare[i * 4 + c]!, e! + light[i * 3 + c]! - before[i * 3 + c]!],
          [0, 0],
        ) as [number, number]
        // In the shadow of the ball, or hardly lit
        if (!(expected > 0.03)) continue
        ratios[name]!.push(added / expected)
      }
    for (const [name, all] of Object.entries(ratios)) {
      expect(all.length, name).toBeGreaterThan(40)
      const sorted = [...all].sort((a, b) => a - b)
      const at = (share: number): number => sorted[Math.floor(share * (sorted.length - 1))]!
      for (const share of [0.05, 0.5, 0.95]) expect(Math.abs(at(share) - 1), name).toBeLessThan(0.02)
    }
  })
})

describe('on the plate', () => {
  it('the ground gets as much brighter as the lamp adds to the light there, by cosine and square', async () => {
    const room = shot({ radius: 0.3 }, false)
    const lit = await pixels(room)
    const bare = await pixels(without(room))
    // Nothing lights the scene: white is as bright all round, which is pi on level ground
    const scene = Math.PI
    const [m, tangent] = [camera.matrix, 18 / 35]
    for (const [x, y] of [
      [20, 50],
      [48, 45],
      [70, 58],
      [30, 40],
    ] as const) {
      const [u, v] = [((x + 0.5) / WIDTH) * 2 - 1, (1 - ((y + 0.5) / HEIGHT) * 2) * (HEIGHT / WIDTH)]
      const way = [0, 1, 2].map(i => m[i]! * u * tangent + m[4 + i]! * v * tangent - m[8 + i]!)
      const far = -1.6 / way[1]!
      const [dx, dy, dz] = [LAMP.x - way[0]! * far, LAMP.y, LAMP.z - way[2]! * far]
      const squared = dx * dx + dy * dy + dz * dz
      const falls = dy / squared ** 1.5
      INTENSITY.forEach((power, c) => {
        const i = (y * WIDTH + x) * 4 + c
        expect(lit[i]! / bare[i]! - 1).toBeCloseTo((power * falls) / scene, 2)
      })
    }
    // The sky has no ground
    const sky = (4 * WIDTH + 10) * 4
    expect(lit[sky]).toBe(bare[sky])
    expect(await pixels(shot({ falls: 'on the render alone' }, false))).toEqual(bare)
  })
  it('nearer than it is large it grows no brighter', async () => {
    // On the ground itself but for a millimetre, below the camera's view: all round its foot within its radius
    const at = { x: 0, y: 0.5, z: -4 }
    const [small, large] = [
      await pixels(shot({ ...at, radius: 0.01 }, false)),
      await pixels(shot({ ...at, radius: 1 }, false)),
    ]
    let [most, least] = [0, Infinity]
    for (let i = 0; i < small.length; i += 4) {
      if (small[i]! <= 0.51) continue
      most = Math.max(most, large[i]! / small[i]!)
      least = Math.min(least, large[i]! / small[i]!)
    }
    // 1 / max(d, 1)^2 against 1 / d^2, from half a metre on
    expect(least).toBeGreaterThan(0.25)
    expect(least).toBeLessThan(0.5)
    expect(most).toBeLessThanOrEqual(1.0001)
  })
})

describe('its halo', () => {
  const only = { falls: 'on the render alone', halo: 1, halo_size: 0.3 } as const
  const brightest = (lit: Float32Array, bare: Float32Array): { x: number; y: number; value: number } => {
    let best = { x: 0, y: 0, value: 0 }
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      const value = lit[i * 4]! - bare[i * 4]!
      if (value > best.value) best = { x: i % WIDTH, y: Math.floor(i / WIDTH), value }
    }
    return best
  }
  it('is brightest where the lamp is seen, and fades by its size', async () => {
    const told = shot(only, false)
    const [lit, bare] = [await pixels(told), await pixels(without(told))]
    const { x, y, value } = brightest(lit, bare)
    const m = camera.matrix
    const d = [LAMP.x - m[12]!, LAMP.y - m[13]!, LAMP.z - m[14]!]
    const along = (at: number): number => d[0]! * m[at]! + d[1]! * m[at + 1]! + d[2]! * m[at + 2]!
    const metres = -along(8)
    const dense = (35 / 36) * (WIDTH / metres)
    expect(Math.abs(x + 0.5 - (WIDTH / 2 + along(0) * dense))).toBeLessThan(1)
    expect(Math.abs(y + 0.5 - (HEIGHT / 2 - along(4) * dense))).toBeLessThan(1)
    // All of its light over a disc of its size
    expect(value).toBeGreaterThan((0.9 * INTENSITY[0]) / (Math.PI * 0.3 ** 2))
    expect(value).toBeLessThan((1.01 * INTENSITY[0]) / (Math.PI * 0.3 ** 2))
    const right = ((y * WIDTH + Math.round(WIDTH / 2 + along(0) * dense + 0.3 * dense - 0.5)) * 4) as number
    expect((lit[right]! - bare[right]!) / value).toBeCloseTo(2 ** -1.5, 1)
  })
  it('is hidden by what is nearer, and lies before what is farther', async () => {
    // Behind the ball, and before it
    const at = (z: number, x: number): ShotDocument => shot({ ...only, x, y: 0.6, z })
    const value = async (told: ShotDocument): Promise<number> =>
      brightest(await pixels(told), await pixels(without(told))).value
    const [before, behind] = [await value(at(-4, 0.9)), await value(at(-7.5, 0.9 * 1.44))]
    expect(before).toBeGreaterThan(10)
    expect(behind).toBeLessThan(before / 4)
  })
})
