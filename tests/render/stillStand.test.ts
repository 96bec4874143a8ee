// Passes that still stand are not rendered again when something else changes.
import { addRow, rowsOf } from '../../core/shot/rows'
import { existsSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Evaluator } from '../../core/compose/evaluate'
import { readExr } from '../../core/formats/exr/exr'
import { newDocument, type ShotDocument, type AddedObject } from '../../core/shot/document'
import { passStamps, touchedPasses } from '../../core/shot/stamp'
import { BlobStore } from '../../host/blobs'
import { startEngine, type Engine } from '../../host/engine'
import { Cancelled, renderPasses } from '../../host/work'
import { scratchFolder } from '../python'

const SUN = {
  ...{ id: 'l', name: 'sun', kind: 'sun' as const, on: true },
  ...{ azimuth: 0, elevation: 40, kelvin: 5600, stops: 2, diameter: 0.5 },
  ...{ width: 1, height: 1, distance: 1, target: [0, 0, 0] as [number, number, number] },
}

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
        addRow(document.scene.lights, SUN)
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
    addRow(document.scene.lights, SUN)
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
