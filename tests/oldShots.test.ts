// Shots as they were kept before (tests/fixtures/version…: written by the code of that version, with what it made of
// them), brought to today's form: the same picture to the bit, nothing out of date.
import { createHash } from 'node:crypto'
import { existsSync, readFileSync } from 'node:fs'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import { writePng } from '../core/formats/png/png'
import { compileScene } from '../core/render/compile'
import { passesToExr } from '../core/render/passfile'
import { Render } from '../core/render/render'
import type { ShotDocument } from '../core/shot/document'
import { ofToday } from '../core/shot/migrate'
import { inOrder } from '../core/shot/rows'
import { sightOf } from '../core/shot/scene'
import { inLaidOrder, layersIn } from '../core/shot/tree'
import { sceneAt } from '../core/shot/scene'
import { passStamps, sceneStamp } from '../core/shot/stamp'
import { demoFile } from '../host/demofile'
import { startEngine, type Engine } from '../host/engine'
import { documentFaults } from '../shared/validate'

interface Fixture {
  document: object
  stamp: string
  stamps: Record<string, string>
}
type Made = Fixture & { exr: string; pictures: Record<string, string> }
const read = (version: number, name: string): Made =>
  JSON.parse(readFileSync(new URL(`fixtures/version${version}/${name}.json`, import.meta.url), 'utf8'))
/**
 * What was made of a shot was written once, by version 1; of the one that has air anew when beams in it got all of their
 * light: of its passes the light of the air differs and nothing else.
 */
const fixture = (name: string, version = 1): Made => ({ ...read(1, name), ...read(version, name) })
const hash = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')
/** The pictures that the fixture names by their bytes: noise from a seed. */
function noise(width: number, height: number, seed: number): Uint8Array {
  let state = seed
  const data = new Uint8Array(width * height * 3).map(() => {
    state = (state * 1103515245 + 12345) & 0x7fffffff
    return state >> 16
  })
  return writePng({ width, height, channels: 3, maximum: 255, data })
}
let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())

it.each([
  ['everything', 1, 2],
  ['bellHouse', 1, 1],
  ['everything', 2, 2],
  ['everything', 3, 2],
  ['everything', 4, 2],
  ['everything', 5, 2],
])(
  '%s of version %s is valid in today’s form, and what was rendered of it is not out of date',
  (name, version, frame) => {
    const { document, stamp, stamps } = fixture(name, version)
    expect((document as { version: number }).version).toBe(version)
    const before = JSON.stringify(document)
    const now = ofToday(document) as ShotDocument
    // The demo's blobs get their names when it is loaded
    expect(documentFaults(now).filter(fault => !/SHA-256/.test(fault))).toEqual([])
    expect(JSON.stringify(document)).toBe(before)
    expect(ofToday(JSON.parse(before))).toEqual(now)
    expect(ofToday(now)).toBe(now)
    expect(sceneStamp(now)).toBe(stamp)
    // Passes that there were not then have a stamp of their own
    expect(passStamps(now, frame)).toMatchObject(stamps)
  },
)

it.each([1, 2, 3, 4, 5])(
  'a shot of version %s with a bit of everything renders and is built as it was, to the bit',
  async version => {
    const { document, exr, pictures } = fixture('everything', version)
    const now = ofToday(document) as ShotDocument
    const { passes } = now
    const described = sceneAt(
      now,
      { prints: new Map(), plate: { width: 1, height: 1, pixels: new Float32Array(4).fill(0.3) } },
      2,
    )
    const compiled = compileScene(engine.kernels, described)
    const job = new Render(engine.pool, compiled, {
      width: 48,
      height: 32,
      samples: 4,
      passes: passes.selected,
      camera: described.camera,
      seed: 3,
    })
    while (!job.done) job.step(5)
    const rendered = passesToExr(job.snapshot(), {
      passes: passes.selected,
      objectNames: described.objects.map(object => object.name),
      materialNames: described.materials.map(material => material.name),
      lightGroups: compiled.lightGroups,
    })
    expect(hash(rendered)).toBe(exr)
    const files = new Map([[passes.file!.blob, rendered]])
    for (const file of [noise(48, 32, 1), noise(8, 8, 4), ...[5, 6, 7].map(seed => noise(20, 10, seed))])
      files.set(hash(file), file)
    const evaluator = new Evaluator(engine.pool, async blob => files.get(blob)!, 2 ** 28)
    const made: Record<string, string> = {}
    for (const frame of [1, 3])
      for (const kind of ['build', 'finish'] as const) {
        const raster = await evaluator.evaluate({ document: now, frame, shrink: 1, show: { kind } })
        made[`${kind} ${frame}`] = hash(engine.kernels.bytes(raster.pointer, raster.width * raster.height * 16).slice())
      }
    expect(made).toEqual(pictures)
  },
)

it('two things of one id are told apart, and the order is kept', () => {
  const { document } = fixture('everything')
  // Nothing hindered that
  const { lights } = (document as { scene: { lights: { id: string }[] } }).scene
  for (const light of lights) light.id = 'l'
  const now = ofToday(document) as ShotDocument
  expect(inOrder(now.scene.lights).map(({ id, name }) => [id, name])).toEqual([
    ['l', 'lamp'],
    ['l-2', 'lamp 2'],
  ])
  const { layers } = now.build
  const laid = (group: string | null): string[] => layersIn(layers, group).map(({ id }) => id)
  expect(laid(null).filter(id => !id.startsWith('render'))).toEqual(['plate', 'near', 'same', 'equal'])
  // The shadow and what wet ground mirrors lie next to the plate, the air before all
  expect(inLaidOrder(layers, null, sightOf(now, 1)).map(({ id }) => id)).toEqual([
    'plate',
    'render-shadow',
    'render-wet',
    'same',
    'near',
    'equal',
    'render-group',
    'render-air',
  ])
  expect(laid('render-group')).toEqual(['render', 'render-ink'])
  expect(inOrder(now.finish).map(({ id }) => id)).toEqual(['f1', 'f2', 'f3'])
  expect(inOrder(now.scene.added).map(({ name }) => name)).toEqual(['floor', 'crate', 'crate 2'])
})

it('a version that is not known is refused by its number, what is malformed is left to the checks', () => {
  expect(() => ofToday({ version: 99 })).toThrow(/version 99/)
  expect(() => ofToday({})).toThrow(/version/)
  for (const odd of [{ version: 1, build: 4 }, { version: 1, finish: [3], scene: { objects: [] } }, null, 'x'])
    expect(documentFaults(ofToday(odd)).length).toBeGreaterThan(0)
})

/** A file of the demo as it was then. */
function fileOfThen(name: string): Buffer {
  const kept = new URL(`fixtures/${name}`, import.meta.url)
  return existsSync(kept) ? readFileSync(kept) : demoFile(name)
}
// fixtures/version…/bellHouse.json: the demo's bell house in variants, and what the code of that version made of them
type Variants = Record<string, { document: object; pictures: Record<string, string> }>
it.each(
  [3, 4].flatMap(version =>
    Object.entries(
      JSON.parse(
        readFileSync(new URL(`fixtures/version${version}/bellHouse.json`, import.meta.url), 'utf8'),
      ) as Variants,
    ).map(([name, made]) => [version, name, made] as const),
  ),
)('the bell house of version %s (%s) is built as it was, to the bit', async (_, _name, { document, pictures }) => {
  const now = ofToday(document) as ShotDocument
  expect(documentFaults(now).filter(fault => !/SHA-256/.test(fault))).toEqual([])
  // Each keeps as much as it may
  const own = await startEngine(2)
  const evaluator = new Evaluator(own.pool, async blob => fileOfThen(blob.slice(1)), 2 ** 29)
  const made: Record<string, string> = {}
  for (const name of Object.keys(pictures)) {
    const [kind, shrink, frame] = name.split(' ') as ['build' | 'finish', string, string]
    const raster = await evaluator.evaluate({
      document: now,
      frame: Number(frame),
      shrink: Number(shrink) as 4,
      show: { kind },
    })
    made[name] = hash(own.kernels.bytes(raster.pointer, raster.width * raster.height * 16).slice())
  }
  own.stop()
  expect(made).toEqual(pictures)
})

it('what tinted by distance is called otherwise since version 6: in layers, in the finish, and in looks within', () => {
  const line = (id: string, lines?: object): object => ({
    ...{ id, order: 'a0', kind: lines ? 'look' : 'haze', on: true, strength: 1, matte: null },
    ...(lines ? { lines, values: {} } : { values: { amount: 0.4, colour: [1, 1, 1], near: 3, far: 9 } }),
  })
  const { document } = fixture('everything', 5) as { document: ShotDocument }
  const [layer] = inOrder(document.build.layers)
  const before = {
    ...document,
    finish: { l: line('l', { m: line('m') }) },
    build: { layers: { [layer!.id]: { ...layer, treatments: { h: line('h') } } } },
  }
  const now = ofToday(before) as ShotDocument
  expect(now.finish.l!.lines!.m).toEqual({ ...line('m'), kind: 'distance_tint' })
  expect(now.build.layers[layer!.id]!.treatments.h!.kind).toBe('distance_tint')
  expect(documentFaults(now).filter(fault => /haze|kind/.test(fault))).toEqual([])
})
