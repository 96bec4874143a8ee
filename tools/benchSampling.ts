// How well samples are spent: error on the demo against independent random samples, with many lamps against one; and
// what data alone cost on the demo.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Pool } from '../core/engine/pool'
import { compileScene } from '../core/render/compile'
import { beautyOf } from '../core/render/planes'
import { DEFAULT_PASSES, PASSES } from '../core/render/passes'
import { Render } from '../core/render/render'
import type { Camera, Light, Scene } from '../core/scene/scene'
import type { ShotDocument } from '../core/shot/document'
import { loadSceneFiles, sceneAt } from '../core/shot/scene'
import { startEngine } from '../host/engine'
import { demoFile, demoFolder } from '../host/demofile'
import { table } from './benchRender'
import { middle, type Figure } from './figures'

/** Samples that count as the truth. */
const TRUTH = 4096
const SAMPLES = 64

async function demo(): Promise<{ scene: Scene; camera: Camera; passes: ShotDocument['passes'] }> {
  const { document } = (
    JSON.parse(readFileSync(join(demoFolder(), 'shots.json'), 'utf8')) as { document: ShotDocument }[]
  )[0]!
  const scene = sceneAt(document, await loadSceneFiles(document, async blob => demoFile(blob.slice(1))), 1)
  return { scene, camera: scene.camera, passes: document.passes }
}

/** Light without indirect fireflies cut, so that all renders mean the same. */
function beauty(
  pool: Pool,
  scene: Scene,
  camera: Camera,
  width: number,
  height: number,
  samples: number,
  seed: number,
): Float32Array {
  const compiled = compileScene(pool.kernels, scene)
  const job = new Render(pool, compiled, {
    width,
    height,
    samples,
    seed,
    passes: ['beauty'],
    camera,
    maxBounces: 4,
    seeEnvironment: scene.environment?.seenByCamera,
  })
  while (!job.done) job.step(16)
  const out = beautyOf(job.snapshot())
  job.dispose()
  compiled.dispose()
  return out
}

/** Mean square of the difference, of light as it is seen: above so many times white all is white. */
const WHITE = 3
function distance(a: Float32Array, b: Float32Array): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) sum += (Math.min(WHITE, a[i]!) - Math.min(WHITE, b[i]!)) ** 2
  return sum / a.length
}

export async function samplingFigures(wanted: (name: string) => boolean): Promise<Figure[]> {
  const out: Figure[] = []
  const put = (figure: Figure): void => {
    out.push(figure)
  }
  if (!['sampling.random', 'sampling.lamps', 'render.data.demo'].some(wanted)) return out
  const engine = await startEngine(2)
  const { pool } = engine
  try {
    if (wanted('render.data.demo')) {
      const { scene, camera } = await demo()
      const compiled = compileScene(pool.kernels, scene)
      const data = PASSES.filter(pass => !pass.needs || ['surface', 'place'].includes(pass.needs))
        .map(pass => pass.id)
        .filter(id => DEFAULT_PASSES.includes(id))
      const times = { data: [] as number[], light: [] as number[] }
      const timed = (passes: readonly string[]): number => {
        const start = performance.now()
        const job = new Render(pool, compiled, { width: 240, height: 160, samples: 8, passes, camera, maxBounces: 4 })
        while (!job.done) job.step(16)
        job.dispose()
        return performance.now() - start
      }
      for (let i = 0; i < 4; i++) {
        times.light.push(timed(DEFAULT_PASSES))
        times.data.push(timed(data))
      }
      put({
        name: 'render.data.demo',
        value: middle(times.data),
        unit: 'ms',
        against: 'the same frame of the demo with light (10 asked for)',
        ratio: middle(times.light) / middle(times.data),
      })
      compiled.dispose()
    }
    if (wanted('sampling.random')) {
      const { scene, camera } = await demo()
      const width = 144
      const height = 96
      const truth = beauty(pool, scene, camera, width, height, TRUTH, 99)
      let ours = 0
      let theirs = 0
      for (let round = 0; round < 2; round++) {
        ours += distance(beauty(pool, scene, camera, width, height, SAMPLES, round), truth)
        // One sample each of renders that know nothing of one another
        const random = new Float32Array(truth.length)
        for (let seed = 0; seed < SAMPLES; seed++)
          beauty(pool, scene, camera, width, height, 1, round * 1e6 + 1000 + seed * 7919).forEach((value, i) => {
            random[i]! += value / SAMPLES
          })
        theirs += distance(random, truth)
      }
      put({
        name: 'sampling.random',
        value: Math.sqrt(ours / 2),
        unit: '',
        against: `error of ${SAMPLES} independent random samples on the demo, as a share of it (at most 0.7 asked for)`,
        ratio: Math.sqrt(ours / theirs),
      })
    }
    if (wanted('sampling.lamps')) {
      const { scene, camera } = table()
      const width = 72
      const height = 48
      const [lamp] = scene.lights as [Extract<Light, { kind: 'box' }>]
      // The one lamp's light from a hundred, here and there above
      const many = Array.from({ length: 100 }, (_, i): Light => ({
        ...lamp,
        name: `lamp ${i}`,
        centre: [Math.cos(i * 2.4) * Math.sqrt(i) * 1.6, 16 + (i % 7), Math.sin(i * 2.4) * Math.sqrt(i) * 1.6],
        halfU: [0.6, 0, 0],
        halfV: [0, 0, 0.6],
        radiance: lamp.radiance.map(value => value * 0.11) as [number, number, number],
      }))
      const error = (lights: Light[]): number => {
        const dark = { ...scene, lights, environment: undefined }
        return distance(
          beauty(pool, dark, camera, width, height, SAMPLES, 1),
          beauty(pool, dark, camera, width, height, TRUTH, 99),
        )
      }
      const one = Math.sqrt(error(scene.lights))
      const all = Math.sqrt(error(many))
      put({
        name: 'sampling.lamps',
        value: all,
        unit: '',
        against: 'error under one lamp, as a multiple of it (at most 2 asked for)',
        ratio: all / one,
      })
    }
  } finally {
    engine.stop()
  }
  return out.filter(({ name }) => wanted(name))
}
