// The tree of layers: what each kind does to what is behind it, how groups and several renders are put together, and what
// is done to the tree.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import type { Show } from '../core/compose/request'
import { compileScene } from '../core/render/compile'
import { passesToExr } from '../core/render/passfile'
import { Render } from '../core/render/render'
import { newDocument, newTreatment, type Layer, type RenderLayer, type ShotDocument } from '../core/shot/document'
import { addLayer, addRender, makeLayer } from '../core/shot/layers'
import { addRow, type Unplaced } from '../core/shot/rows'
import { slipOf, valuedTerm } from '../core/shot/slip'
import { startEngine, type Engine } from '../host/engine'
import { writePng } from '../core/formats/png/png'
import { documentFaults } from '../shared/validate'
import { Files, lit, passFile, type Plane } from './compose/passes'
import { ball, lookAt, material, object, scene } from './scenes'

const SIZE = [40, 24] as const
const [WIDTH, HEIGHT] = SIZE
const files = new Files()
let engine: Engine
let evaluator: Evaluator
beforeAll(async () => {
  engine = await startEngine(2)
  evaluator = new Evaluator(engine.pool, files.load, 2 ** 28)
})
afterAll(() => engine.stop())

const show: Show = { kind: 'build' }
async function built(document: ShotDocument, only?: string[]): Promise<Float32Array> {
  expect(documentFaults(document)).toEqual([])
  const raster = await evaluator.evaluate({ document, frame: 1, shrink: 1, show, only })
  return engine.kernels.floats(raster.pointer, raster.width * raster.height * 4).slice()
}
const pixel = (pixels: Float32Array, x: number, y = 10): number[] => [
  ...pixels.slice((y * WIDTH + x) * 4, (y * WIDTH + x) * 4 + 4),
]
const close = (a: ArrayLike<number>, b: ArrayLike<number>, most: number): void => {
  let worst = 0
  for (let i = 0; i < a.length; i++) worst = Math.max(worst, Math.abs(a[i]! - b[i]!))
  expect(worst).toBeLessThan(most)
}

/** Without a plate: what is behind is a wash of 0.5, as far as can be. */
function shot(): ShotDocument {
  const document = newDocument(WIDTH, HEIGHT)
  delete document.build.layers.plate
  const wall = passFile(
    files,
    SIZE,
    {
      A: x => (x >= 10 && x < 20 ? 1 : 0),
      'depth.Z': x => (x >= 10 && x < 20 ? 10 : 1e10),
      ...lit(x => (x >= 10 && x < 20 ? 0.25 : 0)),
      ...Object.fromEntries(['R', 'G', 'B'].map(c => [`shadow.${c}`, (x: number) => (x >= 20 ? 0.5 : 1)])),
      ...Object.fromEntries(['R', 'G', 'B'].map(c => [`wet.${c}`, (x: number) => (x >= 30 ? 0.1 : 0)])),
      ...Object.fromEntries(['R', 'G', 'B'].map(c => [`volume.${c}`, () => 0.05])),
      'volume.A': () => 0.2,
      'outline.Y': x => (x === 10 ? 1 : 0),
      'occlusion.Y': x => (x >= 35 ? 0.5 : 1),
    },
    { passes: ['beauty', 'alpha', 'depth', 'shadow', 'wet', 'volume', 'outline', 'occlusion'] },
  )
  document.passes.file = wall
  document.build.layers.shadow!.on = false
  add(document, 'wash', { id: 'behind', name: 'Behind', colour: [0.5, 0.5, 0.5], distance: 1e6, opacity: 1 })
  return document
}
function add(document: ShotDocument, kind: Layer['kind'], more: Record<string, unknown>): string {
  return addLayer(document, makeLayer(kind, more))
}
/** One colour over some columns, at a distance. */
function strip(from: number, to: number, value: number, more: Record<string, unknown> = {}): Record<string, unknown> {
  const code = Math.round(value * 255)
  const blob = files.keep(
    writePng({
      width: to - from,
      height: HEIGHT,
      channels: 3,
      maximum: 255,
      data: new Uint8Array((to - from) * HEIGHT * 3).fill(code),
    }),
  )
  return {
    picture: { blob, name: 'strip.png', encoding: 'linear', alpha: 'none', width: to - from, height: HEIGHT },
    x: (from + to) / 2,
    y: HEIGHT / 2,
    scale: 1,
    rotation: 0,
    ...more,
  }
}

describe('what a layer does to what is behind it', () => {
  it('a shadow multiplies what is farther by its pass, as much as it says, and stands where it is put', async () => {
    const document = shot()
    add(document, 'picture', strip(20, 30, 1, { distance: 8 }))
    add(document, 'shadow', { id: 's', of: 'render', amount: 1 })
    // Behind all: nothing is behind it
    expect(pixel(await built(document), 25)[0]).toBe(1)
    ;(document.build.layers.s as { distance?: number }).distance = 9
    let now = await built(document)
    expect([pixel(now, 25)[0], pixel(now, 32)[0], pixel(now, 5)[0]]).toEqual([1, 0.25, 0.5])
    ;(document.build.layers.s as { distance?: number }).distance = 7
    now = await built(document)
    expect([pixel(now, 25)[0], pixel(now, 32)[0]]).toEqual([0.5, 0.25])
    Object.assign(document.build.layers.s!, { amount: 2 })
    expect(pixel(await built(document), 25)[0]).toBe(0)
    // It is treated like any other: its pass a stop brighter is no shadow any more
    Object.assign(document.build.layers.s!, { amount: 1 })
    addRow(document.build.layers.s!.treatments, newTreatment('exposure', { stops: 1 }, 'e'))
    expect(pixel(await built(document), 25)[0]).toBe(1)
  })
  it('lays its pass only where its slip says, of what is behind it; where that cannot be made everywhere', async () => {
    const document = shot()
    add(document, 'shadow', { id: 's', of: 'render', amount: 1, distance: 9 })
    add(document, 'air', { id: 'a', of: 'render', amount: 1, distance: 8 })
    const [shadow, air] = [document.build.layers.s!, document.build.layers.a!]
    air.on = false
    const [behind, shaded] = [0.5, 0.25]
    // 3t^2 - 2t^3 from the left to the right
    const along = slipOf({
      ...valuedTerm('gradient'),
      values: { shape: 'line', from_x: 0, from_y: 0, to_x: WIDTH, to_y: 0 },
    })
    const share = (x: number): number => ((x + 0.5) / WIDTH) ** 2 * (3 - (2 * (x + 0.5)) / WIDTH)
    shadow.matte = along
    expect(documentFaults(document)).toEqual([])
    let now = await built(document)
    for (const x of [22, 27, 32, 38]) expect(pixel(now, x)[0]).toBeCloseTo(behind + (shaded - behind) * share(x), 5)
    expect(pixel(now, 5)[0]).toBe(behind)
    // A matte of brightness is of what is behind: all of 0.5, so that the air lies everywhere but on the shadow
    air.on = true
    delete shadow.matte
    air.matte = slipOf({ ...valuedTerm('brightness'), values: { low: 0.45, high: 1, soft: 0.01 } })
    now = await built(document)
    const aired = behind * 0.8 + 0.05
    expect(pixel(now, 5)[0]).toBeCloseTo(aired, 5)
    expect(pixel(now, 25)[0]).toBeCloseTo(shaded, 5)
    air.matte = slipOf(valuedTerm('facing'))
    expect(pixel(await built(document), 25)[0]).toBeCloseTo(shaded * 0.8 + 0.05, 5)
  })
  it('wet ground adds its light, air takes and adds, only to what is behind', async () => {
    const document = shot()
    add(document, 'picture', strip(20, 40, 1, { distance: 8 }))
    add(document, 'wet', { of: 'render', amount: 2, distance: 9 })
    add(document, 'air', { id: 'a', of: 'render', amount: 0.5, distance: 9 })
    let now = await built(document)
    expect(pixel(now, 32)[0]).toBe(1)
    // 0.5 less a tenth of it, and half of 0.05
    expect(pixel(now, 5)[0]).toBeCloseTo(0.5 * 0.9 + 0.025, 6)
    // The wall, 10 m away, is behind the air at 9 m
    expect(pixel(now, 15)[0]).toBeCloseTo(0.25 * 0.9 + 0.025, 6)
    delete (document.build.layers.a as { distance?: number }).distance
    now = await built(document)
    expect(pixel(now, 32)[0]).toBeCloseTo(0.9 + 0.025, 6)
  })
  it('ink lies on what is behind it; in a group with its render on that alone, and what it bites out shows the plate', async () => {
    const document = shot()
    add(document, 'ink', { id: 'i', of: 'render', strength: 0, bite: 1, colour: [0, 0, 0], distance: 9 })
    // All that is behind is taken out
    expect(pixel(await built(document), 10)).toEqual([0, 0, 0, 0])
    const group = add(document, 'group', { ordered: 'by hand' })
    document.build.layers.render!.within = group
    document.build.layers.i!.within = group
    delete (document.build.layers.i as { distance?: number }).distance
    expect(pixel(await built(document), 10)).toEqual([0.5, 0.5, 0.5, 1])
    Object.assign(document.build.layers.i!, { bite: 0, strength: 0.5, colour: [1, 0, 0] })
    expect(pixel(await built(document), 10)).toEqual([0.25 / 2 + 0.5, 0.125, 0.125, 1])
  })
  it('a picture catches the shadow and the occlusion of a render', async () => {
    const document = shot()
    add(document, 'picture', strip(16, 40, 1, { id: 'p', distance: 8, of: 'render', shadow: 1, occlusion: 0.5 }))
    const now = await built(document)
    expect([18, 25, 36].map(x => pixel(now, x)[0])).toEqual([1, 0.5, 0.5 * 0.75])
    // Of a render that is gone it catches nothing
    Object.assign(document.build.layers.p!, { of: 'nobody' })
    expect(pixel(await built(document), 25)[0]).toBe(1)
  })
  it('a second plate is a picture of its own over the frame; seen alone only one is', async () => {
    const document = shot()
    const { picture } = strip(0, WIDTH, 1) as { picture: object }
    add(document, 'plate', { id: 'second', picture, opacity: 0.5 })
    expect(pixel(await built(document), 5)[0]).toBe(0.5)
    expect(pixel(await built(document, ['second']), 5)).toEqual([0.5, 0.5, 0.5, 0.5])
    // With all that is in it, and what it is in; one that is gone counts for nothing
    const group = add(document, 'group', {})
    document.build.layers.second!.within = group
    expect(pixel(await built(document, [group]), 5)).toEqual([0.5, 0.5, 0.5, 0.5])
    expect(pixel(await built(document, ['second']), 5)).toEqual([0.5, 0.5, 0.5, 0.5])
    expect(await built(document, ['gone'])).toEqual(await built(document))
  })
})

describe('groups', () => {
  it('a treatment on a group works on what is in it, together, and on nothing else', async () => {
    const document = shot()
    const group = add(document, 'group', { id: 'g' })
    add(document, 'picture', { ...strip(0, 5, 0.2), within: group, distance: 3 })
    document.build.layers.render!.within = group
    addRow(document.build.layers.g!.treatments, newTreatment('exposure', { stops: 1 }, 'e'))
    const now = await built(document)
    expect([2, 7, 15].map(x => Number(pixel(now, x)[0]!.toFixed(6)))).toEqual([0.4, 0.5, 0.5])
  })
  it('by hand, what comes later lies before what is nearer; put at a distance, a group stands there as a whole', async () => {
    const document = shot()
    const group = add(document, 'group', { id: 'g', ordered: 'by hand' })
    add(document, 'picture', { ...strip(0, 20, 0.2), within: group, distance: 3 })
    add(document, 'picture', { ...strip(0, 20, 0.8), within: group, distance: 30 })
    expect(pixel(await built(document), 5)[0]).toBeCloseTo(0.8, 6)
    Object.assign(document.build.layers.g!, { ordered: 'by distance' })
    expect(pixel(await built(document), 5)[0]).toBeCloseTo(0.2, 6)
    // Between them stands the wall, 10 m away
    Object.assign(document.build.layers.g!, { distance: 20 })
    expect(pixel(await built(document), 15)[0]).toBe(0.25)
    Object.assign(document.build.layers.g!, { distance: 9 })
    expect(pixel(await built(document), 15)[0]).toBeCloseTo(0.2, 6)
  })
  it('layers laid over each other are the same picture in whatever groups they stand', async () => {
    // Over is associative (Porter and Duff 1984): what groups hold is only bracketed
    await fc.assert(
      fc.asyncProperty(
        fc.array(
          fc.record({
            from: fc.nat(30),
            wide: fc.integer({ min: 2, max: 10 }),
            metres: fc.integer({ min: 2, max: 30 }),
            value: fc.integer({ min: 0, max: 255 }),
            opacity: fc.integer({ min: 1, max: 4 }),
            group: fc.nat(5),
          }),
          { minLength: 1, maxLength: 6 },
        ),
        fc.array(fc.nat(3), { minLength: 4, maxLength: 4 }),
        fc.boolean(),
        async (strips, within, inside) => {
          const plain = shot()
          strips.forEach(({ from, wide, metres, value, opacity }, i) => {
            // No two at one distance: those are laid in their order, which a group changes
            add(
              plain,
              'picture',
              strip(from, from + wide, value / 255, { id: `p${i}`, distance: metres + i / 16, opacity: opacity / 4 }),
            )
          })
          const grouped = structuredClone(plain)
          within.forEach((up, i) => {
            addRow<Layer, Unplaced<Layer>>(grouped.build.layers, {
              ...makeLayer('group', { id: `g${i}` }),
              ...(up < i ? { within: `g${up}` } : {}),
            } as Unplaced<Layer>)
          })
          strips.forEach(({ group }, i) => {
            if (group < within.length) grouped.build.layers[`p${i}`]!.within = `g${group}`
          })
          if (inside) grouped.build.layers.render!.within = 'g0'
          close(await built(grouped), await built(plain), 2e-6)
        },
      ),
      { numRuns: 60 },
    )
  }, 60000)
  it('what is put into itself by two writers is not lost: it stands in no group', async () => {
    const document = shot()
    add(document, 'group', { id: 'a', within: 'b' })
    add(document, 'group', { id: 'b', within: 'a' })
    add(document, 'picture', { ...strip(0, 20, 1), within: 'a', distance: 3 })
    expect(pixel(await built(document), 5)[0]).toBe(1)
  })
})

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
