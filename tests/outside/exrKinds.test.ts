// Every kind of OpenEXR against OpenImageIO 2.4 (Debian): its files of each compression, tiled, mip-mapped, in parts
// and deep read by us with the numbers that it reads itself; ours of every kind read by it. Lossy ones are held against
// its own decoded values.
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { BadInput } from '../../core/formats/errors'
import {
  COMPRESSIONS,
  emptyWindow,
  readExr,
  readExrLater,
  readExrParts,
  stringAttribute,
  WRITTEN,
  writeExr,
  writeExrParts,
  type Compression,
  type ExrChannel,
  type ExrImage,
} from '../../core/formats/exr/exr'
import { floatToHalf, halfToFloat } from '../../core/formats/exr/half'
import { useNode } from '../../host/engine'
import { python, scratchFolder } from '../python'

useNode()
const folder = scratchFolder()
const WIDTH = 93
const HEIGHT = 71

const PICTURE = `
import sys, json, numpy as np, OpenImageIO as o
r = np.random.default_rng(9); w, h = ${WIDTH}, ${HEIGHT}
y, x = np.mgrid[0:h, 0:w]
def picture(n):
    a = np.zeros((h, w, n), np.float32)
    for c in range(n): a[..., c] = 0.4 + 0.35 * np.sin(x * 0.11 + c) * np.cos(y * 0.07) + 0.02 * r.standard_normal((h, w))
    a[10:30, 20:50] = 0.25; a[40:44] *= 60
    return a
def read(path, sub=0, level=0):
    i = o.ImageInput.open(path); i.seek_subimage(sub, level); s = i.spec()
    formats = [str(f) for f in (s.channelformats or [s.format] * s.nchannels)]
    out = {}
    for c, n in enumerate(s.channelnames): out[n] = [float(v) for v in np.asarray(i.read_image(sub, level, c, c + 1, o.UINT if 'uint' in formats[c] else o.FLOAT)).reshape(-1)]
    return out
`
const floats = ({ type, data }: ExrChannel): number[] =>
  Array.from(data, value => (type === 'half' ? halfToFloat(value) : value))
/**
 * All values alike. cosine: but for five in a thousand, whose rounding to halves before the power of 2.2 (or the
 * logarithm above 1) fell the other way.
 */
function agrees(image: ExrImage, expected: Record<string, number[]>, cosine: boolean): void {
  expect(image.channels.map(channel => channel.name).sort()).toEqual(Object.keys(expected).sort())
  for (const channel of image.channels) {
    const own = floats(channel)
    const theirs = expected[channel.name]!
    expect(own.length).toBe(theirs.length)
    if (!cosine) {
      expect(own).toEqual(theirs)
      continue
    }
    const others = own.flatMap((value, i) => (value === theirs[i] ? [] : [Math.abs(value / theirs[i]! - 1)]))
    expect(others.length, channel.name).toBeLessThan(own.length * 0.005)
    expect(Math.max(0, ...others), channel.name).toBeLessThan(0.006)
  }
}

describe('written by OpenImageIO, read by us', () => {
  it.each(
    COMPRESSIONS.flatMap(
      compression =>
        [
          [compression, 'scan lines'],
          [compression, 'tiles'],
        ] as const,
    ),
  )('%s in %s: half, float and whole numbers, windows that differ', async (compression, kind) => {
    const file = join(folder, `${compression}-${kind}.exr`)
    const expected = python<Record<string, number[]>>(
      `${PICTURE}
a = picture(6)
s = o.ImageSpec(w, h, 6, o.FLOAT); s.channelnames = ('R', 'G', 'B', 'A', 'depth.Z', 'object_id.I')
s.channelformats = tuple(o.TypeDesc(t) for t in ('half', 'half', 'half', 'half', 'float', 'uint'))
s.x, s.y = 5, -7; s.full_x, s.full_y, s.full_width, s.full_height = 0, 0, 120, 80
s.attribute('compression', '${compression}')
${kind === 'tiles' ? 's.tile_width = s.tile_height = 32' : ''}
a[..., 5] = np.floor(np.abs(a[..., 5]) * 9)
f = o.ImageOutput.create(sys.argv[1]); assert f.open(sys.argv[1], s), f.geterror()
assert f.write_image(a), f.geterror(); f.close()
print(json.dumps(read(sys.argv[1])))`,
      file,
    )
    const bytes = readFileSync(file)
    const image = readExr(bytes)
    expect(image.compression).toBe(compression)
    expect(image.dataWindow).toEqual({ xMin: 5, yMin: -7, xMax: 5 + WIDTH - 1, yMax: -7 + HEIGHT - 1 })
    agrees(image, expected, compression.startsWith('dwa'))
    expect(await readExrLater(bytes)).toEqual(image)
    expect((await readExrLater(bytes, name => name === 'G')).channels).toEqual(
      image.channels.filter(channel => channel.name === 'G'),
    )
  })
  it('a mip-mapped file gives its full level', () => {
    const file = join(folder, 'plain.exr')
    const mapped = join(folder, 'mapped.exr')
    python(
      `${PICTURE}
s = o.ImageSpec(w, h, 3, o.HALF); f = o.ImageOutput.create(sys.argv[1]); f.open(sys.argv[1], s); f.write_image(picture(3)); f.close()
print('{}')`,
      file,
    )
    execFileSync(
      'maketx',
      ['-o', mapped, '--format', 'exr', '--nomipmap=0', file].filter(argument => argument !== '--nomipmap=0'),
      { stdio: 'ignore' },
    )
    const expected = python<Record<string, number[]>>(`${PICTURE}print(json.dumps(read(sys.argv[1])))`, mapped)
    const [part] = readExrParts(readFileSync(mapped))
    expect(part!.tiled).toBe(true)
    agrees(part!.image, expected, false)
  })
  it.each([0, 32])(
    'several parts (tiles of %i): each by its name, and all as one picture whose channels stay apart',
    side => {
      const file = join(folder, `parts-${side}.exr`)
      const expected = python<Record<string, number[]>[]>(
        `${PICTURE}
specs = []
for n, t in (('beauty', ${side}), ('depth', ${side}), ('extra', ${side})):
    s = o.ImageSpec(w, h, 1 if n == 'depth' else 4, o.HALF); s.attribute('name', n); s.attribute('oiio:subimagename', n); s.attribute('compression', 'piz' if n == 'beauty' else 'zip'); s.attribute('comment', n)
    if n == 'depth': s.channelnames = ('Z',)
    if t: s.tile_width = s.tile_height = t
    specs.append(s)
f = o.ImageOutput.create(sys.argv[1]); assert f.open(sys.argv[1], tuple(specs)), f.geterror()
for k, s in enumerate(specs):
    if k: assert f.open(sys.argv[1], s, 'AppendSubimage'), f.geterror()
    assert f.write_image(picture(s.nchannels)), f.geterror()
f.close()
print(json.dumps([read(sys.argv[1], k) for k in range(3)]))`,
        file,
      )
      const bytes = readFileSync(file)
      const parts = readExrParts(bytes)
      expect(parts.map(part => [part.name, part.tiled, part.image.compression])).toEqual([
        ['beauty', side > 0, 'piz'],
        ['depth', side > 0, 'zip'],
        ['extra', side > 0, 'zip'],
      ])
      parts.forEach((part, k) => agrees(part.image, expected[k]!, false))
      expect(
        readExr(bytes)
          .channels.map(channel => channel.name)
          .sort(),
      ).toEqual(['A', 'B', 'G', 'R', 'depth.Z', 'extra.A', 'extra.B', 'extra.G', 'extra.R'])
    },
  )
  it.each(['none', 'rle', 'zips'])('deep pixels (%s) are flattened in the order of their depths', compression => {
    const file = join(folder, `deep-${compression}.exr`)
    const expected = python<Record<string, number[]>>(
      `${PICTURE}
s = o.ImageSpec(17, 9, 5, o.FLOAT); s.channelnames = ('R', 'G', 'B', 'A', 'Z'); s.deep = True; s.attribute('compression', '${compression}')
pixels = []
for p in range(17 * 9):
    rows = []
    for k in range(int(r.integers(0, 5))): al = float(r.uniform(.1, .9)); rows.append([float(r.uniform(0, 1)) * al for c in range(3)] + [al, float(r.uniform(1, 50))])
    pixels.append(rows)
# Samples stand in any order in the file that we read, nearest first in the one that it flattens
def write(path, order):
    d = o.DeepData(); d.init(17 * 9, 5, o.FLOAT, s.channelnames)
    for p, rows in enumerate(pixels):
        d.set_samples(p, len(rows))
        for k, row in enumerate(sorted(rows, key=lambda row: row[4]) if order else rows):
            for c in range(5): d.set_deep_value(p, c, k, row[c])
    f = o.ImageOutput.create(path); assert f.open(path, s), f.geterror()
    assert f.write_deep_image(d), f.geterror(); f.close()
write(sys.argv[1], False); write(sys.argv[1] + '.sorted.exr', True)
b = o.ImageBufAlgo.flatten(o.ImageBuf(sys.argv[1] + '.sorted.exr')); a = b.get_pixels(o.FLOAT)
print(json.dumps({n: [float(v) for v in np.asarray(a)[..., c].reshape(-1)] for c, n in enumerate(b.spec().channelnames)}))`,
      file,
    )
    const image = readExr(readFileSync(file))
    for (const name of ['R', 'G', 'B', 'A']) {
      const own = floats(image.channels.find(channel => channel.name === name)!)
      own.forEach((value, i) => expect(Math.abs(value - expected[name]![i]!)).toBeLessThan(1e-5))
    }
    expect(readExrParts(readFileSync(file))[0]!.deep).toBe(true)
    expect(floats(image.channels.find(channel => channel.name === 'A')!).some(alpha => alpha > 0.5)).toBe(true)
  })
})

function channel(name: string, type: ExrChannel['type'], seed: number): ExrChannel {
  const value = (i: number): number =>
    Math.sin(i * 0.07 + seed) * 3 + (i % 5 === 0 ? 1000 * seed : 0) + (i % WIDTH) * 0.01
  const count = WIDTH * HEIGHT
  if (type === 'uint')
    return {
      name,
      type,
      linear: false,
      data: Uint32Array.from({ length: count }, (_, i) => (i % 7 ? 3 : (i * 2654435761 + seed) >>> 0)),
    }
  if (type === 'half')
    return { name, type, linear: false, data: Uint16Array.from({ length: count }, (_, i) => floatToHalf(value(i))) }
  return { name, type, linear: false, data: Float32Array.from({ length: count }, (_, i) => value(i)) }
}
const picture = (
  compression: Compression,
  channels = [
    channel('R', 'half', 1),
    channel('depth.Z', 'float', 2),
    channel('object_id.I', 'uint', 3),
    channel('A', 'half', 4),
  ],
): ExrImage => ({
  dataWindow: { xMin: 5, yMin: -3, xMax: 5 + WIDTH - 1, yMax: -3 + HEIGHT - 1 },
  displayWindow: emptyWindow(120, 90),
  compression,
  channels,
  attributes: [stringAttribute('comment', 'fog signal')],
})

describe('written by us, read by OpenImageIO', () => {
  it.each(
    WRITTEN.filter(compression => !compression.startsWith('dwa')).flatMap(
      compression =>
        [
          [compression, undefined],
          [compression, 32],
          [compression, 20],
        ] as const,
    ),
  )('%s, tiles of %s: the same numbers; and by us', (compression, tile) => {
    const image = picture(compression)
    const file = join(folder, `ours-${compression}-${tile}.exr`)
    writeFileSync(file, writeExr(image, { tile }))
    const read = python<Record<string, number[]>>(`${PICTURE}print(json.dumps(read(sys.argv[1])))`, file)
    for (const own of image.channels) expect(read[own.name]).toEqual(floats(own))
    for (const own of readExr(readFileSync(file)).channels)
      expect(own.data).toEqual(image.channels.find(other => other.name === own.name)!.data)
  })
  it.each([
    ['dwaa', undefined],
    ['dwab', undefined],
    ['dwaa', 32],
  ] as const)(
    '%s, tiles of %s: colour close, alpha and the rest exactly; read alike by it and by us',
    (compression, tile) => {
      const smooth = (name: string, type: 'half' | 'float', seed: number): ExrChannel => {
        const value = (i: number): number =>
          0.5 + 0.4 * Math.sin((i % WIDTH) * 0.09 + seed) * Math.cos(Math.floor(i / WIDTH) * 0.06) + (i % 11 ? 0 : 3)
        const count = WIDTH * HEIGHT
        return type === 'half'
          ? { name, type, linear: false, data: Uint16Array.from({ length: count }, (_, i) => floatToHalf(value(i))) }
          : { name, type, linear: false, data: Float32Array.from({ length: count }, (_, i) => value(i)) }
      }
      const image = picture(compression, [
        smooth('R', 'half', 1),
        smooth('G', 'half', 2),
        smooth('B', 'half', 3),
        smooth('A', 'half', 4),
        smooth('glow.Y', 'float', 5),
        channel('depth.Z', 'float', 2),
        channel('object_id.I', 'uint', 3),
      ])
      const file = join(folder, `ours-${compression}-${tile}.exr`)
      const bytes = writeExr(image, { tile })
      writeFileSync(file, bytes)
      const theirs = python<Record<string, number[]>>(`${PICTURE}print(json.dumps(read(sys.argv[1])))`, file)
      const ours = readExr(bytes)
      agrees(ours, theirs, true)
      for (const own of image.channels) {
        const given = floats(own)
        const got = floats(ours.channels.find(other => other.name === own.name)!)
        if (!/^[RGB]$|Y$/.test(own.name)) {
          expect(got).toEqual(given)
          continue
        }
        // As close as the tolerance of its level: a few thousandths as the eye counts (power of 1 / 2.2 below 1,
        // logarithm above)
        const eye = (value: number): number =>
          value <= 1 ? Math.max(0, value) ** (1 / 2.2) : Math.log(value) / 2.2 + 1
        expect(
          Math.sqrt(given.reduce((sum, value, i) => sum + (eye(value) - eye(got[i]!)) ** 2, 0) / given.length),
          own.name,
        ).toBeLessThan(0.004)
      }
      expect(bytes.length).toBeLessThan(writeExr({ ...image, compression: 'zip' }).length)
    },
  )
  it('several parts under their names, one of them tiled', () => {
    const file = join(folder, 'our-parts.exr')
    const one = picture('piz', [channel('R', 'half', 1), channel('G', 'half', 2)])
    const two = picture('zips', [channel('Z', 'float', 5)])
    writeFileSync(
      file,
      writeExrParts([
        { name: 'colour', image: one },
        { name: 'depth', image: two, options: { tile: 64 } },
      ]),
    )
    const read = python<{ names: string[]; parts: Record<string, number[]>[] }>(
      `${PICTURE}
i = o.ImageInput.open(sys.argv[1]); names = []
while i.seek_subimage(len(names), 0): names.append(i.spec().getattribute('oiio:subimagename'))
print(json.dumps({'names': names, 'parts': [read(sys.argv[1], k) for k in range(len(names))]}))`,
      file,
    )
    expect(read.names).toEqual(['colour', 'depth'])
    expect(read.parts[0]!.G).toEqual(floats(one.channels[1]!))
    expect(read.parts[1]!.Z).toEqual(floats(two.channels[0]!))
    expect(() =>
      writeExrParts([
        { name: 'a', image: one },
        { name: 'a', image: two },
      ]),
    ).toThrow(/name of its own/)
  })
  it('flat, steep, constant and random numbers last through PIZ', () => {
    const of = (name: string, make: (i: number) => number): ExrChannel => ({
      name,
      type: 'half',
      linear: false,
      data: Uint16Array.from({ length: WIDTH * HEIGHT }, (_, i) => make(i)),
    })
    let seed = 1
    const random = (): number => {
      seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
      return seed >>> 16
    }
    const channels = [
      of('constant', () => 0x3c00),
      of('none', () => 0),
      of('random', random),
      of('small', i => i % 5),
      of('steps', i => Math.floor(i / WIDTH) * 900),
    ]
    for (const list of [channels, ...channels.map(one => [one])])
      for (const own of readExr(writeExr(picture('piz', list))).channels)
        expect(own.data, own.name).toEqual(list.find(other => other.name === own.name)!.data)
  })
})

describe('damaged files of every kind', () => {
  const kinds: [string, () => Uint8Array][] = [
    ...WRITTEN.map((compression): [string, () => Uint8Array] => [compression, () => writeExr(picture(compression))]),
    ['tiles', () => writeExr(picture('piz'), { tile: 32 })],
    [
      'parts',
      () =>
        writeExrParts([
          { name: 'a', image: picture('zip') },
          { name: 'b', image: picture('rle') },
        ]),
    ],
    ...['pxr24', 'b44a', 'dwaa', 'dwab'].map((compression): [string, () => Uint8Array] => [
      compression,
      () => readFileSync(join(folder, `${compression}-scan lines.exr`)),
    ]),
    ['deep', () => readFileSync(join(folder, 'deep-zips.exr'))],
  ]
  it.each(kinds)(
    '%s: cut off or with bytes changed they are refused with a sentence or read, never worse',
    (_, make) => {
      const whole = make()
      for (let length = 8; length < whole.length - 1; length += Math.max(1, Math.floor(whole.length / 37)))
        expect(() => readExr(whole.slice(0, length)), `cut at ${length}`).toThrow(BadInput)
      for (let i = 0; i < 160; i++) {
        const bytes = whole.slice()
        for (let k = 0; k <= i % 3; k++) {
          const at = (i * 7919 + k * 104729) % bytes.length
          bytes[at] = bytes[at]! ^ (1 + ((i * 31 + k) % 255))
        }
        try {
          readExr(bytes)
        } catch (error) {
          expect(error, `change ${i}`).toBeInstanceOf(BadInput)
        }
      }
    },
  )
})
