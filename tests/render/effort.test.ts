// Only what is needed: samples where there is noise, limits by kind of pass, renders that go on, passes that still
// stand.
import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { compileScene } from '../../core/render/compile'
import { noiseLevel, quietPixels, varianceOf } from '../../core/render/noise'
import { beautyOf, type RenderedPasses } from '../../core/render/planes'
import { stripKept } from '../../core/render/keptrows'
import { Render, type RenderSettings } from '../../core/render/render'
import { kernelModule } from '../../host/engine'
import { Unfinished } from '../../host/unfinished'
import { scratchFolder } from '../python'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, renderScene, scene } from '../scenes'

// Half of it lit evenly, half under a small lamp: quiet on the left, noisy on the right
const camera = lookAt([0, 2, 5], [0, 0.5, 0], 40)
const WIDTH = 64
const HEIGHT = 48
const uneven = scene([object('floor', ground(4)), object('ball', ball([1, 0.5, 0], 0.5, 32, 1))], {
  materials: [
    material({ baseColour: [0.6, 0.6, 0.6, 1] }),
    material({ baseColour: [0.9, 0.6, 0.3, 1], metallic: 1, roughness: 0.4 }),
  ],
  environment: constantEnvironment(0.3),
  lights: [
    {
      kind: 'box',
      name: 'lamp',
      centre: [2, 1.5, 0],
      halfU: [0, 0, 1],
      halfV: [0, 0.4, 0],
      normal: [-1, 0, 0],
      radiance: [20, 20, 20],
    },
  ],
})
const settings: Partial<RenderSettings> & { camera: RenderSettings['camera'] } = {
  camera,
  width: WIDTH,
  height: HEIGHT,
  samples: 256,
  passes: ['beauty', 'alpha', 'noise', 'occlusion', 'crypto_object'],
}
function started(change: Partial<RenderSettings> = {}): { job: Render; end(): void } {
  const pool = new Pool(new Kernels(kernelModule()))
  const compiled = compileScene(pool.kernels, uneven)
  const job = new Render(pool, compiled, {
    width: WIDTH,
    height: HEIGHT,
    samples: 256,
    passes: [],
    ...settings,
    ...change,
  })
  return {
    job,
    end: () => {
      job.dispose()
      compiled.dispose()
    },
  }
}
const errorOf = (plane: Float32Array, truth: Float32Array): number =>
  Math.sqrt(
    plane.reduce((sum, value, i) => sum + (value - truth[i]!) ** 2 / Math.max(0.05, truth[i]!) ** 2, 0) / plane.length,
  )

describe('samples where there is noise', () => {
  const passes = renderScene(uneven, { ...settings, noiseLevel: 0.03 })
  const truth = beautyOf(renderScene(uneven, { ...settings, samples: 2048, seed: 7, passes: ['beauty'] }))
  it('fewer where it is quiet, all where it is not', () => {
    const counts = [...passes.counts]
    expect(Math.min(...counts)).toBeLessThanOrEqual(24)
    expect(Math.max(...counts)).toBeGreaterThan(100)
    expect(counts.reduce((sum, count) => sum + count) / counts.length).toBeLessThan(200)
  })
  it('reaches about the noise that was asked for, with the means still right', () => {
    // Pixels stop when they look quiet, so that it comes out a little above
    expect(errorOf(beautyOf(passes), truth)).toBeLessThan(0.045)
    expect(
      noiseLevel(beautyOf(passes), varianceOf(beautyOf(passes), passes.noise.whole, passes.counts, WIDTH, HEIGHT)),
    ).toBeLessThan(0.05)
    expect(Math.abs(mean(beautyOf(passes), 3) / mean(truth, 3) - 1)).toBeLessThan(0.005)
    // Coverage still sums to one wherever things are
    const { weight, ranks } = passes.coverage.crypto_object!
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      let sum = 0
      for (let rank = 0; rank < ranks; rank++) sum += weight[i * ranks + rank]!
      expect(sum).toBeCloseTo(passes.alpha[i]!, 3)
    }
  })
  it('all samples for all where no noise is said', () => {
    const all = renderScene(uneven, { ...settings, samples: 8 })
    expect([...all.counts].every(count => count === 8)).toBe(true)
  })
  it('on real ground by the noise of its shadow, with no light asked for', () => {
    const under = scene([object('quay', ground(4), { role: 'catcher' }), object('ball', ball([0, 1.2, 0], 0.6, 32))], {
      lights: [
        {
          kind: 'box',
          name: 'lamp',
          centre: [-1, 4, 1],
          halfU: [1.2, 0, 0],
          halfV: [0, 0, 1.2],
          normal: [0, -1, 0],
          radiance: [10, 10, 10],
        },
      ],
    })
    const { counts, shadow } = renderScene(under, {
      ...settings,
      camera: lookAt([0, 3, 4], [0, 0, 0], 35),
      passes: ['shadow'],
      keepNoise: true,
      noiseLevel: 0.02,
    })
    const soft = [...counts].filter((_, i) => shadow[i * 3]! > 0.2 && shadow[i * 3]! < 0.8)
    expect(soft.length).toBeGreaterThan(30)
    expect(soft.reduce((sum, count) => sum + count) / soft.length).toBeGreaterThan(60)
    expect(Math.min(...counts)).toBeLessThanOrEqual(24)
  })
  it('believes a quiet pixel only among quiet ones', () => {
    const beauty = new Float32Array(9 * 9 * 3).fill(1)
    const variance = new Float32Array(9 * 9 * 3)
    variance.fill(1, 40 * 3, 41 * 3)
    const quiet = quietPixels(beauty, variance, 9, 9, 0.1)
    expect(quiet[40]).toBe(0)
    expect(quiet[42]).toBe(0)
    expect(quiet[0]).toBe(1)
  })
})

it('a kind of pass gets no more than its samples, and is right with them', () => {
  const few = renderScene(uneven, { ...settings, samples: 64, limits: { occlusion: 8, light: 16 } })
  const only = renderScene(uneven, { ...settings, samples: 8 })
  const sixteen = renderScene(uneven, { ...settings, samples: 16 })
  expect([...few.occlusion]).toEqual([...only.occlusion])
  const a = beautyOf(few)
  const b = beautyOf(sixteen)
  for (let i = 0; i < a.length; i++) expect(a[i]).toBeCloseTo(b[i]!, 5)
})

describe('a stopped render', () => {
  it('goes on where it was, to the same result to the bit', () => {
    const whole = started({ samples: 24 })
    while (!whole.job.done) whole.job.step(8)
    const expected = whole.job.snapshot()
    const first = started({ samples: 24 })
    first.job.step(8)
    const kept = first.job.kept()!
    first.end()
    const second = started({ samples: 24 })
    expect(second.job.goOn(kept)).toBe(true)
    expect(second.job.samplesSoFar).toBe(8)
    while (!second.job.done) second.job.step(8)
    const result = second.job.snapshot()
    const bytes = (passes: RenderedPasses): Buffer => Buffer.from(beautyOf(passes).buffer)
    expect(bytes(result).equals(bytes(expected))).toBe(true)
    expect([...result.occlusion!]).toEqual([...expected.occlusion!])
    whole.end()
    second.end()
  })
  it('in strips goes on in the strip where it was, with those above as they were', () => {
    const settings = { samples: 24, stripBytes: 60_000 }
    const whole = started(settings)
    expect(whole.job.wholePicture).toBe(false)
    while (!whole.job.done) whole.job.step(8)
    const expected = whole.job.snapshot()
    const first = started(settings)
    while (first.job.strip < 2) first.job.step(8)
    // Between two strips, and in the middle of one
    for (const middle of [false, true]) {
      if (middle) first.job.step(8)
      const kept = first.job.kept()!
      const strips = [0, 1].map(strip => first.job.keptStrip(strip))
      const second = started(settings)
      expect(stripKept(kept)).toBe(2)
      expect(second.job.goOn(kept)).toBe(false)
      expect(second.job.goOn(kept, [strips[0]!, strips[1]!.subarray(1)])).toBe(false)
      expect(second.job.goOn(kept, strips)).toBe(true)
      expect([second.job.strip, second.job.samplesSoFar]).toEqual([2, middle ? 8 : 0])
      while (!second.job.done) second.job.step(8)
      const result = second.job.snapshot()
      expect(Buffer.from(beautyOf(result).buffer).equals(Buffer.from(beautyOf(expected).buffer))).toBe(true)
      expect([...result.occlusion!]).toEqual([...expected.occlusion!])
      expect([...result.objectId]).toEqual([...expected.objectId])
      second.end()
    }
    whole.end()
    first.end()
  })
  it('refuses what is not its own', () => {
    const { job, end } = started({ samples: 24 })
    expect(job.kept()).toBeUndefined()
    job.step(8)
    const kept = job.kept()!
    expect(job.goOn(kept.subarray(0, 100))).toBe(false)
    const wrong = kept.slice()
    new DataView(wrong.buffer).setFloat64(16, 1e9, true)
    expect(job.goOn(wrong)).toBe(false)
    new DataView(wrong.buffer).setFloat64(0, 5, true)
    expect(job.goOn(wrong)).toBe(false)
    end()
  })
  it('ends with what there is when told to', () => {
    const { job, end } = started()
    job.step(4)
    job.finishNow()
    expect(job.done).toBe(true)
    expect([...job.snapshot().counts].every(count => count === 4)).toBe(true)
    expect(mean(beautyOf(job.snapshot()), 3)).toBeGreaterThan(0.1)
    end()
  })
  it('is kept beside, the newest few only', async () => {
    const folder = scratchFolder()
    const store = new Unfinished(join(folder, 'unfinished'))
    expect(await store.read('a', 'sums')).toBeUndefined()
    for (const key of ['a', 'b', 'c', 'd', 'e', 'f']) {
      await store.write(key, 'sums', Uint8Array.of(key.charCodeAt(0)))
      await new Promise(resolve => setTimeout(resolve, 15))
    }
    expect(readdirSync(join(folder, 'unfinished'))).toHaveLength(4)
    expect(await store.read('a', 'sums')).toBeUndefined()
    expect([...(await store.read('f', 'sums'))!]).toEqual([102])
    await store.forget('f')
    expect(await store.read('f', 'sums')).toBeUndefined()
  })
})
