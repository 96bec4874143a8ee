// A small shot to build: two balls on a quay over a grey plate, rendered once for the file of tests that brings it in.
import { createHash } from 'node:crypto'
import { afterAll, beforeAll } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import { writePng } from '../core/formats/png/png'
import { compileScene } from '../core/render/compile'
import { passesToExr } from '../core/render/passfile'
import { PASS_IDS } from '../core/render/passes'
import { Render } from '../core/render/render'
import { newDocument, type ShotDocument } from '../core/shot/document'
import { startEngine, type Engine } from '../host/engine'
import { ball, constantEnvironment, ground, lookAt, material, object, scene } from './scenes'

export const WIDTH = 48
export const HEIGHT = 32
export const files = new Map<string, Uint8Array>()
export const keep = (bytes: Uint8Array): string => {
  const name = createHash('sha256').update(bytes).digest('hex')
  files.set(name, bytes)
  return name
}
export const load = async (blob: string): Promise<Uint8Array> => files.get(blob)!
export let one: Engine
export let two: Engine
export let document: ShotDocument

const description = scene(
  [
    object('quay', ground(20), { role: 'catcher' }),
    object('near', ball([-0.8, 0.7, -4], 0.7, 24)),
    object('far', ball([0.9, 0.8, -8], 0.8, 24, 1)),
  ],
  {
    materials: [material(), material({ name: 'red', baseColour: [0.8, 0.1, 0.1, 1], roughness: 0.4 })],
    environment: constantEnvironment(0.7),
  },
)
export const camera = lookAt([0, 1.5, 0], [0, 0.8, -6], 35)

export function render(engine: Engine): Uint8Array {
  const compiled = compileScene(engine.kernels, description)
  const job = new Render(engine.pool, compiled, {
    width: WIDTH,
    height: HEIGHT,
    samples: 16,
    passes: PASS_IDS,
    camera,
    seed: 3,
  })
  while (!job.done) job.step(5)
  const bytes = passesToExr(job.snapshot(), {
    passes: PASS_IDS,
    objectNames: ['quay', 'near', 'far'],
    materialNames: ['white', 'red'],
    lightGroups: compiled.lightGroups,
  })
  job.dispose()
  compiled.dispose()
  return bytes
}

beforeAll(async () => {
  one = await startEngine(1)
  two = await startEngine(2)
  document = newDocument(WIDTH, HEIGHT)
  const plate = new Uint8Array(WIDTH * HEIGHT * 3).fill(120)
  document.plate = {
    blob: keep(writePng({ width: WIDTH, height: HEIGHT, channels: 3, maximum: 255, data: plate })),
    name: 'plate.png',
    encoding: 'srgb',
    alpha: 'none',
    width: WIDTH,
    height: HEIGHT,
  }
  document.passes.file = {
    blob: keep(render(one)),
    name: 'passes.exr',
    width: WIDTH,
    height: HEIGHT,
    passes: [...PASS_IDS],
    objects: ['quay', 'near', 'far'],
    materials: ['white', 'red'],
    of: '',
  }
})
afterAll(() => {
  one.stop()
  two.stop()
})

export const changed = (mutate: (document: ShotDocument) => void): ShotDocument => {
  const next = structuredClone(document)
  mutate(next)
  return next
}
export async function pixels(
  next: ShotDocument,
  engine = one,
  show: Parameters<Evaluator['evaluate']>[0]['show'] = { kind: 'finish' },
): Promise<Float32Array> {
  const raster = await new Evaluator(engine.pool, load, 2 ** 28).evaluate({ document: next, frame: 1, shrink: 1, show })
  return engine.kernels.floats(raster.pointer, raster.width * raster.height * 4).slice()
}
/** The pixel where the ray to a world place meets the picture. */
export function pixelOf(x: number, y: number, z: number): number {
  const m = camera.matrix
  const d = [x - m[12]!, y - m[13]!, z - m[14]!]
  const along = (at: number): number => d[0]! * m[at]! + d[1]! * m[at + 1]! + d[2]! * m[at + 2]!
  const tangent = 18 / 35
  const depth = -along(8)
  return (
    Math.floor((0.5 - along(4) / depth / ((tangent * HEIGHT) / WIDTH) / 2) * HEIGHT) * WIDTH +
    Math.floor((0.5 + along(0) / depth / tangent / 2) * WIDTH)
  )
}
export const NEAR = (): number => pixelOf(-0.8, 0.7, -3.4)
export const FARTHER = (): number => pixelOf(0.9, 0.8, -7.3)
