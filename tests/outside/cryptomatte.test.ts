// Cryptomatte: hashes against a reference MurmurHash3, our file against a small decoder of its own in Python.
import murmur from 'murmurhash3js-revisited'
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { floatToHash, hashToFloat, murmur3, nameHash } from '../../core/engine/murmur'
import {
  cryptomatteSets,
  decodeCryptomatte,
  encodeCryptomatte,
  manifestOf,
  matteOf,
} from '../../core/formats/cryptomatte/cryptomatte'
import { emptyWindow, readExr, writeExr } from '../../core/formats/exr/exr'
import { readPassFile } from '../../core/render/openpasses'
import { passesToExr } from '../../core/render/passfile'
import { PASS_IDS } from '../../core/render/passes'
import { useNode } from '../../host/engine'
import { ball, constantEnvironment, ground, lookAt, material, object, renderScene, scene } from '../scenes'
import { python, scratchFolder } from '../python'

useNode()
const folder = scratchFolder()

it('MurmurHash3 agrees with murmurhash3js-revisited, also for UTF-8 and every length', () => {
  const names = [
    'hello',
    'bunny',
    'Überpräzise',
    'läuft ünd läuft',
    ...Array.from({ length: 40 }, (_, i) => 'abcdefghijklmnopqrstuvwxyz0123456789ABCD'.slice(0, i)),
  ]
  for (const name of names)
    expect(murmur3(new TextEncoder().encode(name))).toBe(
      murmur.x86.hash32(murmur.inputValidation ? (new TextEncoder().encode(name) as never) : (name as never)),
    )
  // From the notes of that package's author: hello
  expect(murmur3(new TextEncoder().encode('hello')).toString(16)).toBe('248bfa47')
})

it('hashes are normal floats that come back', () => {
  for (let i = 0; i < 20000; i++) {
    const hash = nameHash(`object ${i}`)
    const exponent = (hash >>> 23) & 255
    expect(exponent > 0 && exponent < 255).toBe(true)
    expect(floatToHash(hashToFloat(hash))).toBe(hash)
  }
})

describe('a rendered file', () => {
  const names = ['floor', 'ball één', 'lamp/post']
  const description = scene(
    [
      object(names[0]!, ground(4)),
      object(names[1]!, ball([0, 1, 0], 1, 32)),
      object(names[2]!, ball([1.2, 0.6, 0.8], 0.6, 32, 1)),
    ],
    { materials: [material(), material({ name: 'brass' })], environment: constantEnvironment() },
  )
  const passes = renderScene(description, {
    camera: lookAt([0, 2, 6], [0, 0.7, 0], 45),
    width: 64,
    height: 48,
    samples: 32,
    passes: PASS_IDS,
  })
  const file = join(folder, 'passes.exr')
  writeFileSync(
    file,
    passesToExr(passes, {
      passes: PASS_IDS,
      objectNames: names,
      materialNames: ['white', 'brass'],
      lightGroups: ['environment'],
    }),
  )

  it('gives a decoder written from the specification the coverage that was rendered', () => {
    const decoded = python<Record<string, number[]>>(
      `
import sys, json, struct, numpy as np, OpenImageIO as o
i = o.ImageInput.open(sys.argv[1]); s = i.spec(); a = i.read_image(o.FLOAT); names = list(s.channelnames)
sets = {}
for at in s.extra_attribs:
    p = at.name.split('/')
    if p[0] == 'cryptomatte' and len(p) == 3: sets.setdefault(p[1], {})[p[2]] = at.value
out = {}
for key, meta in sets.items():
    assert meta['hash'] == 'MurmurHash3_32' and meta['conversion'] == 'uint32_to_float32'
    if meta['name'] != 'cryptoObject': continue
    layers = sorted({n.split('.')[0] for n in names if n.startswith(meta['name'])})
    for name, text in json.loads(meta['manifest']).items():
        ident = np.frombuffer(struct.pack('<I', int(text, 16)), dtype=np.float32)[0]
        total = np.zeros(a.shape[:2], np.float32)
        for layer in layers:
            for d, c in (('R', 'G'), ('B', 'A')):
                total += np.where(a[..., names.index(layer + '.' + d)] == ident, a[..., names.index(layer + '.' + c)], 0)
        out[name] = [float(v) for v in total.reshape(-1)]
print(json.dumps(out))`,
      file,
    )
    names.forEach((name, index) => {
      let covered = 0
      for (let pixel = 0; pixel < 64 * 48; pixel++) {
        let expected = 0
        for (let rank = 0; rank < 6; rank++)
          if (passes.coverage.crypto_object!.index[pixel * 6 + rank] === index + 1)
            expected = passes.coverage.crypto_object!.weight[pixel * 6 + rank]!
        expect(Math.abs(decoded[name]![pixel]! - expected)).toBeLessThan(1e-6)
        if (expected > 0) covered++
      }
      expect(covered).toBeGreaterThan(50)
    })
  })

  it('gives the same matte by the command line, and refuses unknown names with those there are', () => {
    const out = join(folder, 'matte.exr')
    execFileSync(process.execPath, [
      'bin/northmist.mjs',
      'matte',
      file,
      '--object',
      `${names[1]},${names[2]}`,
      '--out',
      out,
    ])
    const matte = readExr(readFileSync(out)).channels[0]!
    const expected = matteOf(readExr(readFileSync(file)), [names[1]!, names[2]!]).matte
    expect([...matte.data]).toEqual([...expected])
    expect(() => matteOf(readExr(readFileSync(file)), ['nobody'])).toThrow(/no “nobody”.*floor/)
  })

  it('light passes sum to the beauty as read by OpenImageIO, to 1e-5 relative', () => {
    const worst = python<number>(
      `
import sys, json, numpy as np, OpenImageIO as o
i = o.ImageInput.open(sys.argv[1]); n = list(i.spec().channelnames); a = i.read_image(o.FLOAT).astype(np.float64)
w = 0
for c in 'RGB':
    t = sum(a[..., n.index(p + '.' + c)] for p in ('diffuse_direct', 'diffuse_indirect', 'reflection', 'emission', 'environment'))
    w = max(w, float(np.max(np.abs(t - a[..., n.index(c)]) / np.maximum(1e-3, np.abs(t)))))
print(json.dumps(w))`,
      file,
    )
    expect(worst).toBeLessThan(1e-5)
  })

  it('comes back for building with its names and passes', async () => {
    const read = await readPassFile(readFileSync(file))
    expect(read.objectNames).toEqual(names)
    expect(read.passes).toEqual([...PASS_IDS])
    expect([...read.coverage.get('crypto_object')!.index]).toEqual([...passes.coverage.crypto_object!.index])
    expect(read.planes.get('object_id.I')![24 * 64 + 32]).toBe(passes.objectId[24 * 64 + 32])
  })
})

it('a manifest beside the file is written and found, by name only in the file’s own folder', () => {
  const coverage = { ranks: 2, index: Uint16Array.from([1, 2, 2, 0]), weight: Float32Array.from([0.75, 0.25, 1, 0]) }
  const { channels, attributes } = encodeCryptomatte(
    'cryptoObject',
    coverage,
    2,
    ['buoy', 'rope'],
    'shot.cryptoObject.json',
  )
  const image = {
    channels,
    attributes,
    dataWindow: emptyWindow(2, 1),
    displayWindow: emptyWindow(2, 1),
    compression: 'zip' as const,
  }
  const kept = readExr(writeExr(image))
  const asked: string[] = []
  expect(kept.attributes.some(attribute => attribute.name.endsWith('/manifest'))).toBe(false)
  expect([
    ...matteOf(kept, ['buoy'], undefined, name => {
      asked.push(name)
      return manifestOf(['buoy', 'rope'])
    }).matte,
  ]).toEqual([0.75, 0])
  expect(asked).toEqual(['shot.cryptoObject.json'])
  expect(() => matteOf(kept, ['buoy'])).toThrow('There is no “buoy”')
})

it('ten thousand names stay apart: each is picked where it is, and nowhere else', () => {
  const names = Array.from({ length: 10000 }, (_, i) => `stone ${i}`)
  const pixels = names.length
  const coverage = {
    ranks: 2,
    index: Uint16Array.from({ length: pixels * 2 }, (_, i) =>
      i & 1 ? (i >> 1 === pixels - 1 ? 1 : (i >> 1) + 2) : (i >> 1) + 1,
    ),
    weight: Float32Array.from({ length: pixels * 2 }, (_, i) => (i & 1 ? 0.25 : 0.75)),
  }
  const { channels, attributes } = encodeCryptomatte('cryptoObject', coverage, pixels, names)
  const image = readExr(
    writeExr({
      channels,
      attributes,
      dataWindow: emptyWindow(100, 100),
      displayWindow: emptyWindow(100, 100),
      compression: 'zip',
    }),
  )
  const [set] = cryptomatteSets(image.attributes)
  const decoded = decodeCryptomatte(image, set!)
  expect(decoded.names).toEqual(names)
  expect([...decoded.coverage.index]).toEqual([...coverage.index])
  for (const index of [0, 1, 4711, 9999]) {
    const { matte } = matteOf(image, [names[index]!])
    matte.forEach((value, i) => {
      const expected = i === index ? 0.75 : (i + 1) % pixels === index ? 0.25 : 0
      if (value !== expected) expect([i, value]).toEqual([i, expected])
    })
  }
})
