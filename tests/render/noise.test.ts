// Noise as measured, and taken out: against long renders, and against OpenCV's non-local means and bilateral filters
// (as Debian packages them) at their best settings.
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { readExr } from '../../core/formats/exr/exr'
import { denoiseLayers, denoisePasses, guidePasses, hasNoise } from '../../core/render/denoise'
import { boxMean, varianceByHalves, varianceOf } from '../../core/render/noise'
import { readPassFile } from '../../core/render/openpasses'
import { passesToExr } from '../../core/render/passfile'
import { LIGHT_PARTS } from '../../core/render/passes'
import { beautyOf, sumOf, type RenderedPasses } from '../../core/render/planes'
import type { Scene } from '../../core/scene/scene'
import { kernelModule } from '../../host/engine'
import { python, scratchFolder } from '../python'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'

const folder = scratchFolder()
const WIDTH = 128
const HEIGHT = 96
const camera = lookAt([0, 1.5, 4.5], [0, 0.7, 0], 35)
// A room with a lamp that is small, things matt, glossy and of glass, and a chequered floor: noisy, with edges that
// must stay
const chequer = {
  pixels: Uint8Array.from({ length: 8 * 8 * 4 }, (_, i) =>
    i % 4 === 3 ? 255 : (((i >> 2) % 8) + Math.floor(i / 32)) % 2 ? 200 : 60,
  ),
  width: 8,
  height: 8,
  wrapS: 'repeat' as const,
  wrapT: 'repeat' as const,
}
const room: Scene = scene(
  [
    object('floor', ground(3, 0, 3)),
    object('wall', quad([-3, 0, -1.5], [3, 0, -1.5], [3, 3, -1.5], [-3, 3, -1.5])),
    object('matt', ball([-1, 0.5, 0], 0.5, 32)),
    object('metal', ball([0.1, 0.5, -0.3], 0.5, 32, 1)),
    object('glass', quad([0.5, 0, 0.6], [1.5, 0, 0.3], [1.5, 1, 0.3], [0.5, 1, 0.6], 2)),
  ],
  {
    materials: [
      material({ baseColour: [0.7, 0.5, 0.4, 1] }),
      material({ baseColour: [0.9, 0.7, 0.4, 1], metallic: 1, roughness: 0.3 }),
      material({ transmission: 1, roughness: 0.25, baseColour: [0.8, 0.9, 0.8, 1] }),
      material({ roughness: 0.5, baseTexture: chequer }),
    ],
    lights: [
      {
        kind: 'box',
        name: 'window',
        centre: [-2, 2.2, 1.5],
        halfU: [0, 0.6, 0],
        halfV: [0, 0, 0.6],
        normal: [1, 0, 0],
        radiance: [8, 7, 6],
      },
      { kind: 'ball', name: 'bulb', centre: [1.6, 1.6, 0.8], radius: 0.3, radiance: [5, 3.5, 2] },
    ],
    environment: constantEnvironment(0.15),
  },
)
const shown = ['beauty', 'alpha', 'depth', 'occlusion', ...LIGHT_PARTS, 'by_light', 'raw_direct', 'raw_indirect']
const wanted = [...shown, ...guidePasses(shown, room.materials)]
const look = { camera, width: WIDTH, height: HEIGHT, maxBounces: 4, clampIndirect: 20 }
const noisy = renderScene(room, { ...look, samples: 32, seed: 3, passes: wanted, keepNoise: true })
const longs = [91, 92].map(seed => beautyOf(renderScene(room, { ...look, samples: 512, seed, passes: ['beauty'] })))
const long = longs[0]!.map((value, i) => (value + longs[1]![i]!) / 2)
const beauty = beautyOf(noisy)
const pool = new Pool(new Kernels(kernelModule()))
const clean = denoisePasses(pool, noisy)
const sum = (light: RenderedPasses['light']): Float32Array => sumOf(light!)

it('means over squares are what they are said to be, to the edges', () => {
  const plane = Float32Array.from({ length: 7 * 5 * 2 }, (_, i) => (i * 37) % 11)
  const means = boxMean(plane, 7, 5, 2, 2)
  for (let y = 0; y < 5; y++)
    for (let x = 0; x < 7; x++)
      for (let c = 0; c < 2; c++) {
        let total = 0
        let count = 0
        for (let j = Math.max(0, y - 2); j <= Math.min(4, y + 2); j++)
          for (let i = Math.max(0, x - 2); i <= Math.min(6, x + 2); i++) {
            total += plane[(j * 7 + i) * 2 + c]!
            count++
          }
        expect(means[(y * 7 + x) * 2 + c]).toBeCloseTo(total / count, 5)
      }
  expect(
    [...boxMean(plane, 7, 5, 2, 50)].every(
      (value, i) => Math.abs(value - [...plane].filter((_, k) => k % 2 === i % 2).reduce((a, b) => a + b) / 35) < 1e-4,
    ),
  ).toBe(true)
})

describe('noise as measured', () => {
  it('is the square of the distance to a long render, on the whole', () => {
    const variance = varianceOf(beauty, noisy.noise.whole, noisy.counts, WIDTH, HEIGHT)
    let said = 0
    let found = 0
    // Without the few brightest, whose errors are few and large
    for (let i = 0; i < variance.length; i++)
      if (beauty[i]! < 2) {
        said += variance[i]!
        found += (beauty[i]! - long[i]!) ** 2
      }
    expect(said / found).toBeGreaterThan(0.5)
    expect(said / found).toBeLessThan(2.5)
  })
  it('falls as samples grow, and is none where one sample was taken or nothing is seen', () => {
    const at = (samples: number): number => {
      const passes = renderScene(room, { ...look, samples, passes: wanted, keepNoise: true })
      return mean(varianceOf(beautyOf(passes), passes.noise.whole, passes.counts, WIDTH, HEIGHT), 3)
    }
    expect(at(64)).toBeLessThan(at(16) * 0.4)
    expect(at(1)).toBe(0)
    const empty = renderScene(scene([]), { ...look, samples: 8, passes: ['noise'] })
    expect(Math.max(...varianceOf(beautyOf(empty), empty.noise.whole, empty.counts, WIDTH, HEIGHT))).toBe(0)
  })
})

describe('noise taken out', () => {
  it('comes 2 dB nearer to a long render than the best of non-local means and bilateral filters', () => {
    writeFileSync(join(folder, 'noisy.bin'), new Uint8Array(beauty.buffer))
    longs.forEach((long, i) => writeFileSync(join(folder, `long${i}.bin`), new Uint8Array(long.buffer)))
    writeFileSync(join(folder, 'clean.bin'), new Uint8Array(sum(clean.light).buffer))
    const found = python<{ noisy: number; clean: number; means: number; bilateral: number }>(`
import cv2, json, numpy as np
tone = lambda x: (np.maximum(x, 0) / (1 + np.maximum(x, 0))) ** (1 / 2.2)
load = lambda name: tone(np.fromfile('${folder}/' + name + '.bin', np.float32).reshape(${HEIGHT}, ${WIDTH}, 3)).astype(np.float32)
noisy, first, second, clean = load('noisy'), load('long0'), load('long1'), load('clean')
# Against two long renders at once: their own noise, which has nothing to do with each other, falls out of the mean
db = lambda a: float(-10 * np.log10(np.mean((a - first) * (a - second))))
codes = (noisy * 255 + .5).astype(np.uint8)
means = max(db(cv2.fastNlMeansDenoisingColored(codes, None, h, h, t, 21) / 255.) for h in (2, 3, 5, 7, 10, 14) for t in (3, 5, 7))
bilateral = max(db(cv2.bilateralFilter(noisy, d, c, s)) for d in (5, 7, 9, 13) for c in (.03, .05, .1, .15, .2, .3) for s in (1, 1.5, 2, 3, 5))
print(json.dumps({'noisy': db(noisy), 'clean': db(clean), 'means': means, 'bilateral': bilateral}))
`)
    expect(found.clean - Math.max(found.means, found.bilateral), JSON.stringify(found)).toBeGreaterThan(2)
  })
  it('keeps the light there is, and the chequers of the floor', () => {
    expect(Math.abs(mean(sum(clean.light), 3) / mean(beauty, 3) - 1)).toBeLessThan(0.02)
    // Contrast between neighbouring fields of the floor: as before to 3 %
    const contrast = (plane: Float32Array): number => {
      let sum = 0
      for (let y = HEIGHT - 20; y < HEIGHT - 2; y++)
        for (let x = 10; x < WIDTH - 10; x++)
          sum +=
            Math.abs(noisy.albedo[(y * WIDTH + x) * 3]! - 0.25) > 0.1
              ? plane[(y * WIDTH + x) * 3]! * Math.sign(noisy.albedo[(y * WIDTH + x) * 3]! - 0.25)
              : 0
      return sum
    }
    expect(Math.abs(contrast(sum(clean.light)) / contrast(long) - 1)).toBeLessThan(0.03)
  })
  it('leaves lights that add up to the beauty, and raw light that makes direct light', () => {
    const whole = sum(clean.light)
    for (let i = 0; i < whole.length; i++) {
      let lights = 0
      for (const group of clean.groups!) lights += group[i]!
      expect(Math.abs(lights - whole[i]!)).toBeLessThan(1e-4 * Math.max(1, whole[i]!))
    }
    expect(Math.abs(mean(clean.rawDirect!, 3) / mean(noisy.rawDirect, 3) - 1)).toBeLessThan(0.02)
  })
  it('does nothing to a picture without noise', () => {
    const plane = Float32Array.from({ length: 40 * 30 * 3 }, (_, i) => Math.sin(i * 0.37) + 2)
    const light = Float32Array.from({ length: 40 * 30 }, (_, i) => plane[i * 3]!)
    const [out] = denoiseLayers(
      pool,
      { width: 40, height: 30, light, variance: new Float32Array(40 * 30), guides: [], layers: [plane] },
      { radius: 3, noise: 0.6 },
    )
    for (let i = 0; i < plane.length; i++) expect(Math.abs(out![i]! - plane[i]!)).toBeLessThan(1e-5)
  })
  it('stands beside what was rendered in the file; data passes and what was rendered are the same to the bit', async () => {
    const options = {
      passes: shown,
      objectNames: room.objects.map(object => object.name),
      materialNames: ['a', 'b', 'c', 'd'],
      lightGroups: ['window', 'bulb', 'environment'],
    }
    const with_ = readExr(passesToExr(noisy, { ...options, clean }))
    const without = readExr(passesToExr(noisy, options))
    for (const channel of without.channels)
      expect(with_.channels.find(other => other.name === channel.name)!.data, channel.name).toEqual(channel.data)
    expect(
      with_.channels
        .filter(channel => channel.name.startsWith('clean.'))
        .map(channel => channel.name)
        .sort(),
    ).toEqual(
      [
        'clean.B',
        'clean.G',
        'clean.R',
        ...[
          'by_light.bulb',
          'by_light.environment',
          'by_light.window',
          'diffuse_direct',
          'diffuse_indirect',
          'raw_direct',
          'raw_indirect',
          'reflection',
          'refraction',
        ].flatMap(name => ['B', 'G', 'R'].map(c => `clean.${name}.${c}`)),
      ].sort(),
    )
    expect((await readPassFile(passesToExr(noisy, { ...options, clean }))).lights.sort()).toEqual([
      'bulb',
      'environment',
      'window',
    ])
  })
})

it('the shadow on a catcher loses its noise and keeps its edge', () => {
  const under = scene([object('quay', ground(4), { role: 'catcher' }), object('ball', ball([0, 1.2, 0], 0.6, 32))], {
    lights: [
      {
        kind: 'box',
        name: 'lamp',
        centre: [-1, 4, 1],
        halfU: [0.8, 0, 0],
        halfV: [0, 0, 0.8],
        normal: [0, -1, 0],
        radiance: [10, 10, 10],
      },
    ],
    environment: constantEnvironment(0.2),
  })
  const at = lookAt([0, 3, 4], [0, 0, 0], 35)
  const few = renderScene(under, { ...look, camera: at, samples: 16, passes: ['shadow'], keepNoise: true })
  const many = renderScene(under, { ...look, camera: at, samples: 256, passes: ['shadow'], seed: 9 })
  // The shadow alone is rendered without light
  expect(few.light).toBeUndefined()
  expect(guidePasses(['shadow', 'depth'], under.materials)).toEqual([])
  expect([hasNoise(['shadow']), hasNoise(['depth', 'occlusion']), hasNoise(['by_light'])]).toEqual([true, false, true])
  const better = denoisePasses(pool, few).shadow!
  const error = (plane: Float32Array): number => {
    let sum = 0
    for (let i = 0; i < plane.length; i++) sum += (plane[i]! - many.shadow[i]!) ** 2
    return Math.sqrt(sum / plane.length)
  }
  expect(error(better)).toBeLessThan(error(few.shadow) * 0.7)
  const variance = varianceByHalves(few.shadow, few.noise.shadowOdd!, few.counts, WIDTH, HEIGHT)
  expect(Math.sqrt(mean(variance, 3)) / error(few.shadow)).toBeGreaterThan(0.6)
  expect(Math.sqrt(mean(variance, 3)) / error(few.shadow)).toBeLessThan(1.6)
})

it('leaves no blotches on smooth surfaces under a panorama: what is off over seven pixels', () => {
  // A room of grey with one window, in which few samples find the window
  const [across, down] = [128, 64]
  const pixels = Float32Array.from({ length: across * down * 4 }, (_, i) => {
    const [x, y] = [Math.floor(i / 4) % across, Math.floor(i / 4 / across)]
    return i % 4 === 3 ? 1 : x > 76 && x < 90 && y > 14 && y < 26 ? 14 : 0.3
  })
  const smooth = scene([object('table', ground(3)), object('vase', ball([0, 0.5, 0], 0.5, 96, 1))], {
    materials: [material({ baseColour: [0.5, 0.45, 0.4, 1] }), material({ baseColour: [0.8, 0.8, 0.78, 1] })],
    environment: { pixels, width: across, height: down, turn: 0, gain: [1, 1, 1], seenByCamera: false },
  })
  const passes = ['beauty', ...LIGHT_PARTS, ...guidePasses(['beauty'], smooth.materials)]
  const at = { camera, width: 160, height: 120, maxBounces: 3, passes, keepNoise: true, settle: true }
  const few = renderScene(smooth, { ...at, samples: 16 })
  const much = beautyOf(renderScene(smooth, { ...at, passes: ['beauty'], samples: 640, seed: 8 }))
  const blotches = (picture: Float32Array): number => {
    const off = boxMean(
      picture.map((value, i) => Math.sqrt(Math.max(0, value)) - Math.sqrt(Math.max(0, much[i]!))),
      160,
      120,
      3,
      3,
    )
    let sum = 0
    let count = 0
    for (let i = 0; i < 160 * 120; i++) {
      // Inside the vase and on the table before it: no edges
      const x = i % 160
      const y = Math.floor(i / 160)
      if (!(y > 95 || Math.hypot(x - 80, y - 68) < 22)) continue
      for (let c = 0; c < 3; c++) sum += off[i * 3 + c]! ** 2
      count += 3
    }
    return Math.sqrt(sum / count)
  }
  const cleaned = sum(denoisePasses(pool, few).light)
  expect(blotches(cleaned) / blotches(beautyOf(few))).toBeLessThan(0.82)
})
