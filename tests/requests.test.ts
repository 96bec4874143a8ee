/* eslint-disable @typescript-eslint/no-explicit-any -- damaged files and documents have no type */
// Documents and files as the server lets them in.
import { addRow, rowsOf } from '../core/shot/rows'
import { createHash } from 'node:crypto'
import { readdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { describe, expect, it } from 'vitest'
import { blobsOf, newDocument, newTreatment, type ShotDocument, type TreatmentSettings } from '../core/shot/document'
import { BlobStore } from '../host/blobs'
import { documentFaults } from '../shared/validate'
import { unsound } from '../shared/sound'
import { scratchFolder } from './python'

describe('documents', () => {
  const fault = (change: (document: Record<string, any>) => void): string => {
    const document = structuredClone(newDocument()) as Record<string, any>
    change(document)
    return documentFaults(document).join('; ')
  }
  it('that are new are right', () => {
    expect(documentFaults(newDocument())).toEqual([])
  })
  it.each([
    [
      'a wrong version',
      (d: any) => {
        d.version = 9
      },
      /version/,
    ],
    [
      'a missing part',
      (d: any) => {
        delete d.scene
      },
      /scene/,
    ],
    [
      'an unknown field',
      (d: any) => {
        d.build.magic = 1
      },
      /magic/,
    ],
    [
      'a frame of no size',
      (d: any) => {
        d.frame.width = 0
      },
      /frame\.width/,
    ],
    [
      'NaN',
      (d: any) => {
        d.scene.camera.y = NaN
      },
      /scene\.camera\.y/,
    ],
    [
      'an endless number',
      (d: any) => {
        d.scene.camera.focalLength = Infinity
      },
      /focalLength/,
    ],
    [
      'keys out of order',
      (d: any) => {
        d.scene.camera.y = {
          keys: [
            { frame: 5, value: 1, ease: 'linear' },
            { frame: 2, value: 1, ease: 'linear' },
          ],
        }
      },
      /camera\.y/,
    ],
    [
      'keys of an unknown ease',
      (d: any) => {
        d.scene.camera.y = { keys: [{ frame: 5, value: 1, ease: 'bouncy' }] }
      },
      /camera\.y/,
    ],
    [
      'a name in place of a blob',
      (d: any) => {
        d.scene.file = { blob: '../../etc/passwd', name: 'x' }
      },
      /SHA-256/,
    ],
    [
      'an unknown treatment',
      (d: any) => {
        d.finish = rowsOf<TreatmentSettings>([newTreatment('sparkle', {})])
      },
      /finish\.\w+\.kind/,
    ],
    [
      'a value a treatment lacks',
      (d: any) => {
        d.finish = rowsOf<TreatmentSettings>([newTreatment('exposure', { warmth: 1 })])
      },
      /warmth should not exist/,
    ],
    [
      'a value out of range',
      (d: any) => {
        d.finish = rowsOf<TreatmentSettings>([newTreatment('exposure', { stops: 99 })])
      },
      /-10 to 10/,
    ],
    [
      'a kind of layer that there is not',
      (d: any) => {
        addRow(d.build.layers, { ...d.build.layers.plate, id: 'second', kind: 'smoke' })
      },
      /second\.kind: must be one of the following values: plate, render/,
    ],
    [
      'a value that a kind of layer lacks',
      (d: any) => {
        d.build.layers.shadow.opacity = 1
      },
      /layers\.shadow\.opacity|opacity should not exist/,
    ],
    [
      'two layers of one id',
      (d: any) => {
        d.build.layers.render.id = 'plate'
      },
      /layers\.render\.id: must be the name/,
    ],
    [
      'a layer with no place in the order',
      (d: any) => {
        d.build.layers.render.order = '?'
      },
      /layers\.render\.order: order must be a place/,
    ],
    [
      'a picture layer without a picture',
      (d: any) => {
        addRow(d.build.layers, { ...d.build.layers.plate, kind: 'picture', id: 'third' })
      },
      /third\.picture/,
    ],
    [
      'a row the desk lacks',
      (d: any) => {
        d.build.layers.render.desk.objects.bell = { shine: 1 }
      },
      /shine should not exist/,
    ],
    [
      'frames the wrong way round',
      (d: any) => {
        d.frames.last = -4
      },
      /frames\.last: lies before first/,
    ],
    [
      'an object setting of the wrong kind',
      (d: any) => {
        d.scene.objects.bell = { role: 'ghost' }
      },
      /objects\.bell\.role/,
    ],
  ])('with %s are refused by its name', (_what, change, says) => {
    expect(fault(change)).toMatch(says)
  })
  it('name the files they need', () => {
    const document: ShotDocument = newDocument()
    document.plate = { blob: 'a'.repeat(64), name: 'a', encoding: 'srgb', alpha: 'none', width: 1, height: 1 }
    document.scene.file = { blob: 'b'.repeat(64), name: 'b' }
    expect(blobsOf(document).sort()).toEqual(['a'.repeat(64), 'b'.repeat(64)])
  })
  it('of any other kind are refused', () => {
    for (const value of [null, 3, 'x', []]) expect(documentFaults(value).length).toBeGreaterThan(0)
  })
})

describe('the blob store', () => {
  const folder = scratchFolder()
  const store = new BlobStore(join(folder, 'blobs'))
  const left = (): string[] =>
    readdirSync(store.folder, { recursive: true })
      .map(String)
      .filter(name => name.endsWith('.part'))
  it('names by SHA-256 and keeps one copy', async () => {
    const data = Buffer.from('fog signal')
    const name = createHash('sha256').update(data).digest('hex')
    expect(await store.put(data)).toBe(name)
    expect(await store.putStream(Readable.from([data.subarray(0, 3), data.subarray(3)]))).toEqual({
      blob: name,
      bytes: 10,
    })
    expect(Buffer.from(await store.get(name)).toString()).toBe('fog signal')
    expect(left()).toEqual([])
  })
  it('refuses what is too large or empty and leaves nothing', async () => {
    await expect(store.putStream(Readable.from([Buffer.alloc(2000)]), 1000)).rejects.toThrow(/larger/)
    await expect(store.putStream(Readable.from([]))).rejects.toThrow(/empty/)
    expect(left()).toEqual([])
  })
  it('notices damage when reading', async () => {
    const name = await store.put(Buffer.from('clear'))
    writeFileSync(store.path(name), 'cloudy')
    await expect(store.get(name)).rejects.toThrow(/damaged/)
  })
  it('heals a damaged file when the same comes again, by either way', async () => {
    const data = Buffer.from('clear again')
    const name = await store.put(data)
    writeFileSync(store.path(name), 'cloudy')
    await store.put(data)
    expect(Buffer.from(await store.get(name)).toString()).toBe('clear again')
    writeFileSync(store.path(name), 'cloudy')
    await store.putStream(Readable.from([data]))
    expect(Buffer.from(await store.get(name)).toString()).toBe('clear again')
  })
  it('refuses by content before a file is part of it: the same bytes taken elsewhere at once stay', async () => {
    const data = Buffer.from('one file, two doors')
    const refused = Array.from({ length: 30 }, () =>
      store
        .putStream(Readable.from([data]), 1000, async () => {
          throw new Error('not here')
        })
        .catch(() => 'refused'),
    )
    const taken = Array.from({ length: 30 }, () => store.putStream(Readable.from([data])))
    const answers = await Promise.all([...refused, ...taken])
    expect(answers.filter(answer => answer === 'refused')).toHaveLength(30)
    const { blob } = await taken[0]!
    expect(Buffer.from(await store.get(blob)).toString()).toBe('one file, two doors')
    expect(left()).toEqual([])
  })
  it('sweeps away what broken uploads left', async () => {
    writeFileSync(join(store.folder, 'half.part'), 'ha')
    expect(await store.sweepParts()).toBe(1)
    expect(left()).toEqual([])
  })
  it('never leaves its folder', () => {
    for (const name of ['../secret', 'a'.repeat(63), '/etc/passwd']) expect(() => store.path(name)).toThrow(/no name/)
  })
})

describe('JSON from outside', () => {
  it.each([
    ['NUL', { name: 'a\0b' }, /NUL/],
    ['half a character', { name: 'cut \ud83d' }, /half of a character/],
    ['an object called constructor', { constructor: { a: 1 } }, /constructor/],
    ['__proto__', JSON.parse('{"__proto__": {"a": 1}}'), /__proto__/],
    ['a nest', JSON.parse(`${'['.repeat(60)}${']'.repeat(60)}`), /nested/],
    ['a hundred thousand things', { patch: Array.from({ length: 100000 }, () => ({})) }, /holds more than/],
  ])('%s is said', (_what, value, says) => {
    const started = performance.now()
    expect(unsound(value)).toMatch(says)
    expect(performance.now() - started).toBeLessThan(500)
  })
  it('ordinary text and numbers are sound', () => {
    expect(unsound({ name: 'Überholm 🔔', list: [1, { a: null }], deep: [[[[1]]]] })).toBeUndefined()
    expect(unsound(newDocument())).toBeUndefined()
  })
})
