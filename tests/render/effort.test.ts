// Only what is needed: samples where there is noise, limits by kind of pass, renders that go on, passes that still
// stand.
import { addRow, rowsOf } from '../../core/shot/rows'
import { existsSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { Evaluator } from '../../core/compose/evaluate'
import { readExr } from '../../core/formats/exr/exr'
import { compileScene } from '../../core/render/compile'
import { noiseLevel, quietPixels, varianceOf } from '../../core/render/noise'
import { beautyOf, type RenderedPasses } from '../../core/render/planes'
import { Render, stripKept, type RenderSettings } from '../../core/render/render'
import { newDocument, type ShotDocument, type AddedObject } from '../../core/shot/document'
import { passStamps, touchedPasses } from '../../core/shot/stamp'
import { BlobStore } from '../../host/blobs'
import { kernelModule, startEngine, type Engine } from '../../host/engine'
import { Unfinished } from '../../host/unfinished'
import { Cancelled, renderPasses } from '../../host/work'
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

describe('passes that still stand', () => {
  const base = (): ShotDocument => {
    const document = newDocument(32, 24)
    document.scene.added = rowsOf<AddedObject>([
      {
        id: 'crate',
        name: 'crate',
        kind: 'standin',
        shape: 'box',
        width: 1,
        height: 1,
        depth: 1,
        points: [],
        colour: [0.5, 0.4, 0.3],
        roughness: 0.6,
      },
    ])
    document.scene.objects = { crate: { position: [0, 0, -4] } }
    document.passes.selected = ['beauty', 'alpha', 'depth', 'occlusion', 'shadow', 'crypto_object']
    document.passes.samples = 4
    document.passes.file = {
      blob: 'x',
      name: 'p',
      width: 32,
      height: 24,
      passes: document.passes.selected,
      objects: [],
      materials: [],
      of: '',
      stamps: passStamps(document, 1),
    }
    return document
  }
  const after = (mutate: (document: ShotDocument) => void): string[] => {
    const document = base()
    mutate(document)
    return touchedPasses(document, 1)
  }
  it('are all while nothing changed, and none after things moved or the frame is another', () => {
    expect(after(() => {})).toEqual([])
    expect(
      after(document => {
        document.scene.objects.crate!.position = [1, 0, -4]
      }),
    ).toHaveLength(6)
    expect(
      after(document => {
        document.passes.samples = 5
      }),
    ).toHaveLength(6)
    expect(touchedPasses(base(), 2)).toHaveLength(6)
  })
  it('are all but those that a change concerns', () => {
    expect(
      after(document => {
        document.passes.reach = 3
      }),
    ).toEqual(['occlusion'])
    expect(
      after(document => {
        document.scene.objects.crate!.darkens = false
      }),
    ).toEqual(['occlusion'])
    expect(
      after(document => {
        document.passes.bounces = 2
      }),
    ).toEqual(['beauty', 'shadow'])
    expect(
      after(document => {
        addRow(document.scene.lights, {
          id: 'l',
          name: 'sun',
          kind: 'sun',
          on: true,
          azimuth: 0,
          elevation: 40,
          kelvin: 5600,
          stops: 2,
          diameter: 0.5,
          width: 1,
          height: 1,
          distance: 1,
          target: [0, 0, 0],
        })
      }),
    ).toEqual(['beauty', 'shadow'])
    expect(
      after(document => {
        document.passes.ranks = 4
      }),
    ).toEqual(['crypto_object'])
    expect(
      after(document => {
        document.passes.selected = [...document.passes.selected, 'outline']
      }),
    ).toEqual(['outline'])
    expect(
      after(document => {
        document.passes.mist = { near: 1, far: 2 }
      }),
    ).toEqual([])
    expect(
      after(document => {
        document.scene.objects.crate!.locked = true
      }),
    ).toEqual([])
    expect(
      after(document => {
        delete document.passes.file!.stamps
      }),
    ).toHaveLength(6)
  })

  let engine: Engine
  beforeAll(async () => {
    engine = await startEngine(1)
  })
  afterAll(() => engine.stop())
  it('stay in the file to the bit, while the others are rendered again; a stopped job goes on', async () => {
    const store = new BlobStore(scratchFolder())
    const evaluator = new Evaluator(engine.pool, blob => store.get(blob))
    const document = base()
    const quiet = { progress: () => {}, cancelled: () => false }
    document.passes.file = null
    addRow(document.scene.lights, {
      id: 'l',
      name: 'sun',
      kind: 'sun',
      on: true,
      azimuth: 0,
      elevation: 40,
      kelvin: 5600,
      stops: 2,
      diameter: 0.5,
      width: 1,
      height: 1,
      distance: 1,
      target: [0, 0, 0],
    })
    const first = await renderPasses(engine, evaluator, store, document, 1, quiet)
    document.passes.file = first.passFile!
    expect(touchedPasses(document, 1)).toEqual([])
    document.passes.reach = 0.2
    document.passes.selected = [...document.passes.selected, 'facing']
    const second = await renderPasses(engine, evaluator, store, document, 1, quiet)
    const before = readExr(await store.get(first.blob))
    const now = readExr(await store.get(second.blob))
    expect([...second.passFile!.passes].sort()).toEqual([...first.passFile!.passes, 'facing'].sort())
    for (const channel of before.channels) {
      const other = now.channels.find(entry => entry.name === channel.name)!
      expect(other.data.length).toBe(channel.data.length)
      if (channel.name !== 'occlusion.Y') expect(other.data, channel.name).toEqual(channel.data)
    }
    expect(now.channels.some(channel => channel.name === 'facing.Y')).toBe(true)
    expect(now.attributes.filter(attribute => attribute.name.endsWith('/manifest'))).toHaveLength(1)
    expect(second.passFile!.clean).toBe(true)
    // Cancelled at once: kept; then done, and nothing is left
    document.passes.samples = 64
    let asked = 0
    await expect(
      renderPasses(engine, evaluator, store, document, 1, { progress: () => {}, cancelled: () => ++asked > 3 }),
    ).rejects.toThrow(Cancelled)
    expect(readdirSync(join(store.folder, 'unfinished'))).toHaveLength(1)
    const said: string[] = []
    await renderPasses(engine, evaluator, store, document, 1, {
      progress: (_, message) => said.push(message),
      cancelled: () => false,
    })
    expect(said.find(message => message.includes('samples'))).not.toBe('1 of 64 samples')
    expect(
      existsSync(join(store.folder, 'unfinished')) ? readdirSync(join(store.folder, 'unfinished')) : [],
    ).toHaveLength(0)
  })
  it('and a time is kept', async () => {
    const store = new BlobStore(scratchFolder())
    const evaluator = new Evaluator(engine.pool, blob => store.get(blob))
    const document = base()
    const started = Date.now()
    document.passes.file = null
    document.passes.samples = 60000
    document.passes.minutes = 0.02
    await renderPasses(engine, evaluator, store, document, 1, { progress: () => {}, cancelled: () => false })
    expect(Date.now() - started).toBeLessThan(8000)
  })
})
