// Renders as layers: one that holds little, and several put together.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { compileScene } from '../core/render/compile'
import { passesToExr } from '../core/render/passfile'
import { Render } from '../core/render/render'
import { newDocument, newTreatment, type RenderLayer, type ShotDocument } from '../core/shot/document'
import { addRender } from '../core/shot/layers'
import { addRow } from '../core/shot/rows'
import { lit, passFile, type Plane } from './compose/passes'
import { ball, lookAt, material, object, scene } from './scenes'
import { add, built, close, engine, files, HEIGHT, pixel, SIZE, useLayers, WIDTH, evaluator, show } from './layeredShot'

useLayers()

it('a render that holds little is worked on where it holds something, and is the same picture', async () => {
  const inside = (x: number, y: number): boolean => x >= 16 && x < 22 && y >= 10 && y < 14
  const of = (trace: number): ShotDocument => {
    const document = newDocument(WIDTH, HEIGHT)
    document.build.layers = {}
    const at: Plane = (x, y) => (inside(x, y) ? 0.5 + x / 100 : x + y === 0 ? trace : 0)
    const planes = { A: (x: number, y: number) => Number(inside(x, y)), 'depth.Z': () => 5, ...lit(at) }
    const id = addRender(document, passFile(files, SIZE, planes), 'R')
    add(document, 'wash', { distance: 4, opacity: 0.25 })
    addRow(document.build.layers[id]!.treatments, newTreatment('blur', { radius: 1.5 }, 'b'))
    addRow(document.build.layers[id]!.treatments, newTreatment('exposure', { stops: 1 }, 'e'))
    return document
  }
  // A trace in the corner makes all of the frame count
  const [little, whole] = [await built(of(0)), await built(of(1e-20))]
  close(little, whole, 1e-6)
  expect(pixel(little, 18, 12)[0]).toBeGreaterThan(0.8)
  expect(pixel(little, 14, 12)[0]).toBeGreaterThan(pixel(little, 2, 2)[0]!)
})

describe('several renders', () => {
  const random = (seed: number) => {
    let state = seed
    return () => (state = (state * 1103515245 + 12345) & 0x7fffffff) / 0x7fffffff
  }
  it('each pixel shows what is nearer over what is farther, as OpenImageIO’s zover has it', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'northmist-zover-'))
    try {
      const next = random(7)
      const made = [0, 1].map(() => {
        const table = Float32Array.from({ length: WIDTH * HEIGHT * 5 }, next)
        for (let i = 0; i < WIDTH * HEIGHT; i++) {
          const alpha = [0, 0.5, 1][Math.floor(table[i * 5 + 3]! * 3) % 3]!
          for (let c = 0; c < 3; c++) table[i * 5 + c]! *= alpha
          table[i * 5 + 3] = alpha
          table[i * 5 + 4] = alpha ? 1 + table[i * 5 + 4]! * 9 : 1e10
        }
        return table
      })
      made.forEach((table, i) => writeFileSync(join(folder, `${i}.f32`), table))
      execFileSync('/usr/bin/python3', [
        '-c',
        `import OpenImageIO as oiio, numpy as np
def read(i):
    a = np.fromfile('${folder}/%d.f32' % i, 'f4').reshape(${HEIGHT}, ${WIDTH}, 5)
    spec = oiio.ImageSpec(${WIDTH}, ${HEIGHT}, 5, 'float')
    spec.channelnames = ('R', 'G', 'B', 'A', 'Z'); spec.alpha_channel = 3; spec.z_channel = 4
    b = oiio.ImageBuf(spec); b.set_pixels(oiio.ROI(), a); return b
r = oiio.ImageBufAlgo.zover(read(0), read(1))
assert not r.has_error, r.geterror()
np.ascontiguousarray(r.get_pixels('float')[:, :, :4]).tofile('${folder}/out.f32')`,
      ])
      const bytes = readFileSync(join(folder, 'out.f32'))
      const expected = new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length))
      const document = newDocument(WIDTH, HEIGHT)
      document.build.layers = {}
      for (const table of made) {
        const at = (c: number) => (x: number, y: number) => table[(y * WIDTH + x) * 5 + c]!
        addRender(document, passFile(files, SIZE, { A: at(3), 'depth.Z': at(4), ...lit(at(0), at(1), at(2)) }), 'R')
      }
      close(await built(document), expected, 1e-6)
    } finally {
      rmSync(folder, { recursive: true })
    }
  })
  it('two that stand in each other are as if they had been rendered together, to their edges', async () => {
    const camera = lookAt([0, 1.5, 0], [0, 0.8, -6], 35)
    const [wide, tall] = [96, 64]
    const glowing = (name: string, emission: [number, number, number]) =>
      material({ name, baseColour: [0, 0, 0, 1], emission, roughness: 1 })
    const materials = [glowing('red', [0.8, 0.1, 0.1]), glowing('green', [0.1, 0.7, 0.2])]
    const balls = [
      object('red', ball([-0.35, 0.8, -5], 0.7, 24)),
      object('green', ball([0.35, 0.9, -5.2], 0.75, 24, 1)),
    ]
    const passes = [
      'beauty',
      'alpha',
      'depth',
      'crypto_object',
      'emission',
      'diffuse_direct',
      'diffuse_indirect',
      'reflection',
      'refraction',
      'environment',
    ]
    const rendered = (which: typeof balls) => {
      const compiled = compileScene(engine.kernels, scene(which, { materials }))
      const job = new Render(engine.pool, compiled, { width: wide, height: tall, samples: 64, passes, camera, seed: 5 })
      while (!job.done) job.step(16)
      const blob = files.keep(
        passesToExr(job.snapshot(), {
          passes,
          objectNames: which.map(({ name }) => name),
          materialNames: ['red', 'green'],
          lightGroups: compiled.lightGroups,
        }),
      )
      job.dispose()
      compiled.dispose()
      return {
        blob,
        name: 'p.exr',
        width: wide,
        height: tall,
        passes,
        objects: which.map(({ name }) => name),
        materials: [],
        of: '',
      }
    }
    const of = async (which: (typeof balls)[], unseen: number[] = []): Promise<Float32Array> => {
      const document = newDocument(wide, tall)
      document.build.layers = {}
      for (const distance of unseen) add(document, 'wash', { distance, opacity: 0 })
      for (const part of which) addRender(document, rendered(part), 'R')
      for (const layer of Object.values(document.build.layers)) (layer as RenderLayer).clean = 0
      const raster = await evaluator.evaluate({ document, frame: 1, shrink: 1, show })
      return engine.kernels.floats(raster.pointer, wide * tall * 4).slice()
    }
    const together = await of([balls])
    for (const order of [balls, [...balls].reverse()]) {
      const apart = await of([[order[0]!], [order[1]!]])
      let sum = 0
      let bad = 0
      for (let i = 0; i < wide * tall; i++) {
        const off = Math.max(...[0, 1, 2, 3].map(c => Math.abs(apart[i * 4 + c]! - together[i * 4 + c]!)))
        sum += off
        if (off > 0.35) bad++
      }
      // An edge that is taken for the one of the two instead of the other would be off by a whole ball
      expect(sum / (wide * tall)).toBeLessThan(0.006)
      expect(bad).toBeLessThan(8)
    }
    // A layer that stands between and is nowhere seen changes nothing, to the borders of what it cuts; where two cut the
    // same border, what little each takes for the other's stays out
    for (const metres of [4.4, 4.6, 4.8, 5]) {
      close(await of([balls], [metres]), together, 2e-6)
      close(await of([balls], [metres, metres + 0.1]), together, 0.01)
    }
    // The check can fail: either ball alone, or the farther laid over the nearer, is far off
    const alone = await of([[balls[0]!]])
    expect(alone.reduce((sum, value, i) => sum + Math.abs(value - together[i]!), 0) / alone.length).toBeGreaterThan(
      0.02,
    )
  })
})
