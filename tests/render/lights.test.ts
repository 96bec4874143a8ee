// Light told apart: a beauty for each light, raw light before colour, and the picture relit from them. Light is
// additive (superposition), which is what all of this rests on; expectations are renders of the same scene with one
// light alone.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Evaluator } from '../../core/compose/evaluate'
import type { Show } from '../../core/compose/request'
import { compileScene } from '../../core/render/compile'
import { readPassFile } from '../../core/render/openpasses'
import { passesToExr } from '../../core/render/passfile'
import { eachPass, PASS_IDS, passOf } from '../../core/render/passes'
import { beautyOf, type RenderedPasses } from '../../core/render/planes'
import { Render } from '../../core/render/render'
import type { Light, Scene } from '../../core/scene/scene'
import { newDocument, type ShotDocument } from '../../core/shot/document'
import { namesTerm, slipOf } from '../../core/shot/slip'
import { ownRender } from '../../core/shot/tree'
import { startEngine, type Engine } from '../../host/engine'
import { kernelModule } from '../../host/engine'
import { Kernels } from '../../core/engine/memory'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'

const camera = lookAt([0, 1.6, 5], [0, 0.6, 0], 40)
const SIZE = 32
const lamps: Light[] = [
  { kind: 'sun', name: 'sun', direction: [-0.6, -0.7, -0.4], diameter: 1, irradiance: [2, 1.8, 1.5] },
  { kind: 'ball', name: 'left bulb', group: 'bulbs', centre: [-1.4, 1.5, 0.5], radius: 0.15, radiance: [20, 6, 3] },
  { kind: 'ball', name: 'right bulb', group: 'bulbs', centre: [1.4, 1.5, 0.5], radius: 0.15, radiance: [3, 6, 20] },
  { kind: 'point', name: 'spark', position: [0, 2, 1.5], intensity: [1, 2, 1] },
]
const all = (change: Partial<Scene> = {}, glow = 3): Scene =>
  scene(
    [
      object('floor', ground(4)),
      object('ball', ball([-0.6, 0.5, 0], 0.5, 32, 1)),
      object('glass', ball([0.7, 0.45, 0.4], 0.45, 32, 2)),
      object('sign', quad([-0.4, 1.4, -1], [0.4, 1.4, -1], [0.4, 1.8, -1], [-0.4, 1.8, -1], 3)),
    ],
    {
      materials: [
        material({ baseColour: [0.7, 0.6, 0.5, 1], roughness: 0.5 }),
        material({ baseColour: [0.9, 0.5, 0.2, 1], metallic: 1, roughness: 0.2 }),
        material({ transmission: 1, roughness: 0, solid: { absorption: [0, 0.3, 0.6] } }),
        material({ baseColour: [0, 0, 0, 1], emission: [glow, glow, glow * 0.4] }),
      ],
      lights: lamps,
      environment: constantEnvironment(0.3, { seenByCamera: true }),
      ...change,
    },
  )
const settings = {
  camera,
  width: SIZE,
  height: SIZE,
  samples: 128,
  passes: ['beauty', 'alpha', 'by_light'],
  seeEnvironment: true,
  maxBounces: 5,
}
const NAMES = ['shining things', 'sun', 'bulbs', 'spark', 'environment']

describe('a beauty for each light', () => {
  const passes = renderScene(all(), settings)
  const whole = beautyOf(passes)
  it('is there for what shines, each lamp or group of lamps, and the environment', () => {
    const kernels = new Kernels(kernelModule())
    const compiled = compileScene(kernels, all())
    expect(compiled.lightGroups).toEqual(NAMES)
    compiled.dispose()
    expect(passes.groups).toHaveLength(5)
  })
  it('adds up to the beauty in every pixel', () => {
    for (let i = 0; i < whole.length; i++) {
      let sum = 0
      for (const group of passes.groups) sum += group[i]!
      expect(Math.abs(sum - whole[i]!)).toBeLessThan(1e-5 * Math.max(1, whole[i]!))
    }
    expect(mean(whole, 3)).toBeGreaterThan(0.3)
  })
  it('is what the scene looks like under that light alone', () => {
    const dark = { environment: undefined, lights: [] as Light[] }
    const alone = [
      renderScene(all(dark), settings),
      renderScene(all({ ...dark, lights: [lamps[0]!] }, 0), settings),
      renderScene(all({ ...dark, lights: lamps.slice(1, 3) }, 0), settings),
      renderScene(all({ ...dark, lights: [lamps[3]!] }, 0), settings),
      renderScene(all({ lights: [] }, 0), settings),
    ]
    // Each is an estimate of its own: means of the picture within 6 %
    alone.forEach((other, i) => {
      for (let c = 0; c < 3; c++)
        expect(
          Math.abs(mean(passes.groups[i]!, 3, c) / mean(beautyOf(other), 3, c) - 1),
          `${NAMES[i]} ${c}`,
        ).toBeLessThan(0.06)
    })
  })
  it('of more lights than are told apart, the rest share one', () => {
    const many: Light[] = Array.from({ length: 20 }, (_, i) => ({
      kind: 'point',
      name: `lamp ${i}`,
      position: [i / 10 - 1, 2, 1],
      intensity: [0.2, 0.2, 0.2],
    }))
    const kernels = new Kernels(kernelModule())
    const compiled = compileScene(kernels, all({ lights: many }))
    expect(compiled.lightGroups).toHaveLength(16)
    expect(compiled.lightGroups[15]).toBe('all other light')
    compiled.dispose()
    const crowd = renderScene(all({ lights: many }), { ...settings, samples: 16 })
    const sum = crowd.groups.reduce((sum, group) => sum + mean(group, 3), 0)
    expect(sum).toBeCloseTo(mean(beautyOf(crowd), 3), 4)
  })
  it('bounds the same specks in both sums', () => {
    const bounded = renderScene(all(), { ...settings, samples: 32, clampIndirect: 0.5 })
    const sum = bounded.groups.reduce((sum, group) => sum + mean(group, 3), 0)
    expect(sum).toBeCloseTo(mean(beautyOf(bounded), 3), 4)
    expect(sum).toBeLessThan(mean(whole, 3))
  })
})

it('every pass is the same whatever else is rendered', () => {
  const look = { ...settings, samples: 8, passes: [...PASS_IDS] }
  const everything = renderScene(
    {
      ...all(),
      volumes: [
        {
          name: 'mist',
          density: 0.05,
          colour: [1, 1, 1],
          forward: 0,
          noise: 0,
          noiseSize: 1,
          seed: 1,
          base: 0,
          halfHeight: 0,
        },
      ],
    },
    look,
  )
  // Raw light draws for black surfaces too, noise is measured beside: those two change how many numbers are drawn, not
  // what they mean
  const plain = renderScene(all(), { ...look, passes: PASS_IDS.filter(id => !/^(raw|noise)/.test(id)) })
  const few = renderScene(all(), { ...look, passes: ['beauty', 'occlusion', 'shadow'] })
  expect([...beautyOf(plain)]).toEqual([...beautyOf(few)])
  expect([...plain.occlusion]).toEqual([...few.occlusion])
  expect(Math.abs(mean(beautyOf(everything), 3) / mean(beautyOf(few), 3) - 1)).toBeLessThan(0.02)
  expect([...everything.light.emission]).toEqual([...few.light.emission])
})

describe('raw light', () => {
  const wanted = { ...settings, samples: 256, passes: ['beauty', 'alpha', 'albedo', 'raw_direct', 'raw_indirect'] }
  const lit = (colour: [number, number, number], change = {}): Required<RenderedPasses> =>
    renderScene(
      scene(
        [object('floor', ground(3)), object('wall', quad([-3, 0, -1.5], [3, 0, -1.5], [3, 3, -1.5], [-3, 3, -1.5]))],
        {
          materials: [material({ baseColour: [...colour, 1], roughness: 0.6, ...change })],
          lights: [lamps[1]!],
          environment: constantEnvironment(0.4),
        },
      ),
      wanted,
    )
  it('times the surface colour is direct and indirect light, pixel by pixel', () => {
    const passes = lit([0.7, 0.4, 0.1])
    for (const [raw, part] of [
      [passes.rawDirect, 'diffuse_direct'],
      [passes.rawIndirect, 'diffuse_indirect'],
    ] as const) {
      let checked = 0
      for (let i = 0; i < SIZE * SIZE; i++) {
        if (passes.alpha[i]! < 0.999) continue
        checked++
        for (let c = 0; c < 3; c++)
          expect(Math.abs(raw[i * 3 + c]! * passes.albedo[i * 3 + c]! - passes.light[part][i * 3 + c]!)).toBeLessThan(
            1e-4 * Math.max(1, raw[i * 3 + c]!),
          )
      }
      expect(checked).toBeGreaterThan(500)
    }
  })
  it('is there on black surfaces too, as much as on others, but for what they send each other', () => {
    const black = lit([0, 0, 0])
    const grey = lit([0.5, 0.5, 0.5])
    expect(mean(black.light.diffuse_direct, 3)).toBe(0)
    expect(Math.abs(mean(black.rawDirect, 3) / mean(grey.rawDirect, 3) - 1)).toBeLessThan(0.02)
    expect(mean(black.rawIndirect, 3)).toBeLessThan(mean(grey.rawIndirect, 3) * 0.4)
    expect(mean(black.rawIndirect, 3)).toBeGreaterThan(0)
  })
  it('is none on metal', () => {
    expect(mean(lit([0.7, 0.7, 0.7], { metallic: 1 }).rawDirect, 3)).toBe(0)
  })
})

describe('relit on the desk', () => {
  let engine: Engine
  let document: ShotDocument
  let bytes: Uint8Array
  let passes: RenderedPasses
  let file: Awaited<ReturnType<typeof readPassFile>>
  const names = ['floor', 'ball', 'glass', 'sign']
  const wanted = [
    'beauty',
    'alpha',
    'diffuse_direct',
    'diffuse_indirect',
    'reflection',
    'refraction',
    'emission',
    'environment',
    'by_light',
    'crypto_object',
  ]
  beforeAll(async () => {
    engine = await startEngine(1)
    const compiled = compileScene(engine.kernels, all())
    const job = new Render(engine.pool, compiled, { ...settings, samples: 32, passes: wanted })
    while (!job.done) job.step(16)
    passes = job.snapshot()
    bytes = passesToExr(passes, {
      passes: wanted,
      objectNames: names,
      materialNames: ['a', 'b', 'c', 'd'],
      lightGroups: compiled.lightGroups,
    })
    job.dispose()
    compiled.dispose()
    file = await readPassFile(bytes)
    document = newDocument(SIZE, SIZE)
    document.passes.file = {
      blob: 'passes',
      name: 'passes.exr',
      width: SIZE,
      height: SIZE,
      passes: wanted,
      objects: names,
      materials: ['a', 'b', 'c', 'd'],
      lights: file.lights,
      of: '',
    }
  })
  afterAll(() => engine.stop())
  const pixels = async (
    lights: Record<string, number>,
    change: (document: ShotDocument) => void = () => {},
    show: Show = { kind: 'build' },
  ): Promise<Float32Array> => {
    const next = structuredClone(document)
    ownRender(next.build.layers)!.desk.lights = lights
    change(next)
    const raster = await new Evaluator(engine.pool, () => Promise.resolve(bytes), 2 ** 28).evaluate({
      document: next,
      frame: 1,
      shrink: 1,
      show,
    })
    return engine.kernels.floats(raster.pointer, SIZE * SIZE * 4).slice()
  }
  it('reads the groups back from the file, each a pass to look at', () => {
    expect([...file.lights].sort()).toEqual([...NAMES].sort())
    expect(file.passes).toContain('by_light')
    expect(eachPass(['by_light', 'alpha'], ['bulbs'])).toEqual(['by_light.bulbs', 'alpha'])
    expect(passOf('by_light.bulbs')!.channels).toEqual(['by_light.bulbs.R', 'by_light.bulbs.G', 'by_light.bulbs.B'])
  })
  it('is what a render under those lights is', async () => {
    // As if rendered again: the sum of the groups by their gains
    const relit = await pixels({ bulbs: 0, environment: 2.5, sun: 1.5 })
    const gains = { bulbs: 0, environment: 2.5, sun: 1.5 } as Record<string, number>
    for (let i = 0; i < SIZE * SIZE; i++)
      for (let c = 0; c < 3; c++) {
        let expected = 0
        NAMES.forEach((name, k) => {
          expected += passes.groups![k]![i * 3 + c]! * (gains[name] ?? 1)
        })
        expect(Math.abs(relit[i * 4 + c]! - expected)).toBeLessThan(2e-4 * Math.max(1, expected))
      }
  })
  it('on one object alone, as on that object under those lights, and to the bit as before elsewhere', async () => {
    const before = await pixels({})
    const after = await pixels({}, next => {
      ownRender(next.build.layers)!.desk.objects.ball = { lights: { bulbs: 0, environment: 2.5 } }
    })
    const matte = await pixels({}, () => {}, { kind: 'matte', matte: slipOf(namesTerm(['ball'])) })
    const gains = { bulbs: 0, environment: 2.5 } as Record<string, number>
    let [inside, changed] = [0, 0]
    for (let i = 0; i < SIZE * SIZE; i++) {
      const share = matte[i * 4]!
      if (share > 0 && share < 1) continue
      for (let c = 0; c < 3; c++) {
        if (share === 0) {
          expect(after[i * 4 + c]).toBe(before[i * 4 + c])
          continue
        }
        inside++
        let expected = 0
        NAMES.forEach((name, k) => {
          expected += passes.groups![k]![i * 3 + c]! * (gains[name] ?? 1)
        })
        if (Math.abs(expected - before[i * 4 + c]!) > 0.01) changed++
        expect(Math.abs(after[i * 4 + c]! - expected)).toBeLessThan(2e-4 * Math.max(1, expected))
      }
    }
    expect([inside > 60, changed > 50]).toEqual([true, true])
  })
  it('at 1 changes no bit, and goes together with the desk’s other faders', async () => {
    const plain = await pixels({})
    const one = await pixels({ bulbs: 1 })
    const both = await pixels({ bulbs: 2, sun: 2, spark: 2, environment: 2, 'shining things': 2 }, next => {
      ownRender(next.build.layers)!.desk.everything.exposure = 1
    })
    expect([...one]).toEqual([...plain])
    for (let i = 0; i < plain.length; i++)
      if (i % 4 < 3 && plain[i - (i % 4) + 3]! > 0.999)
        expect(Math.abs(both[i]! - plain[i]! * 4)).toBeLessThan(1e-4 * Math.max(1, plain[i]! * 4))
  })
})
