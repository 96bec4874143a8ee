// OpenEXR against OpenImageIO 2.4 (Debian): its files read exactly, ours read exactly by it.
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { BadInput } from '../../core/formats/errors'
import {
  attributeValue,
  emptyWindow,
  readExr,
  stringAttribute,
  writeExr,
  type Compression,
  type ExrChannel,
  type ExrType,
} from '../../core/formats/exr/exr'
import { floatToHalf, halfToFloat } from '../../core/formats/exr/half'
import { useNode } from '../../host/engine'
import { python, scratchFolder } from '../python'

useNode()
const folder = scratchFolder()
const WIDTH = 37
const HEIGHT = 29

function channel(name: string, type: ExrType, seed: number): ExrChannel {
  const count = WIDTH * HEIGHT
  const value = (i: number): number => Math.sin(i * 0.07 + seed) * 3 + (i % 5 === 0 ? 1000 * seed : 0)
  if (type === 'uint')
    return {
      name,
      type,
      linear: false,
      data: Uint32Array.from({ length: count }, (_, i) => (i * 2654435761 + seed) >>> 0),
    }
  if (type === 'half')
    return { name, type, linear: false, data: Uint16Array.from({ length: count }, (_, i) => floatToHalf(value(i))) }
  return { name, type, linear: false, data: Float32Array.from({ length: count }, (_, i) => value(i)) }
}

const READ = `
import sys, json, numpy as np, OpenImageIO as o
i = o.ImageInput.open(sys.argv[1]); s = i.spec()
out = {'channels': list(s.channelnames), 'formats': [str(f) for f in (s.channelformats or [s.format]*s.nchannels)], 'x': s.x, 'y': s.y, 'full': [s.full_x, s.full_y, s.full_width, s.full_height], 'compression': s.getattribute('compression'), 'values': {}, 'comment': s.getattribute('comment')}
for c, n in enumerate(s.channelnames):
    f = out['formats'][c]
    t = o.UINT if 'uint' in f else o.FLOAT
    a = i.read_image(0, 0, c, c + 1, t)
    out['values'][n] = [float(v) for v in np.asarray(a).reshape(-1)]
print(json.dumps(out))`

describe('written by us, read by OpenImageIO', () => {
  it.each(['none', 'rle', 'zips', 'zip'] as Compression[])('%s with half, float and uint in one file', compression => {
    const channels = [
      channel('R', 'half', 1),
      channel('depth.Z', 'float', 2),
      channel('object_id.I', 'uint', 3),
      channel('A', 'half', 4),
    ]
    const file = join(folder, `ours-${compression}.exr`)
    writeFileSync(
      file,
      writeExr({
        dataWindow: { xMin: 5, yMin: -3, xMax: 5 + WIDTH - 1, yMax: -3 + HEIGHT - 1 },
        displayWindow: emptyWindow(64, 48),
        compression,
        channels,
        attributes: [stringAttribute('comment', 'fog signal')],
      }),
    )
    const read = python<{
      channels: string[]
      x: number
      y: number
      full: number[]
      compression: string
      comment: string
      values: Record<string, number[]>
    }>(READ, file)
    expect([...read.channels].sort()).toEqual(['A', 'R', 'depth.Z', 'object_id.I'])
    expect([read.x, read.y, ...read.full]).toEqual([5, -3, 0, 0, 64, 48])
    expect(read.compression).toBe(compression)
    expect(read.comment).toBe('fog signal')
    for (const { name, type, data } of channels)
      expect(read.values[name]).toEqual(Array.from(data, value => (type === 'half' ? halfToFloat(value) : value)))
  })
})

describe('written by OpenImageIO, read by us', () => {
  it.each(['none', 'rle', 'zips', 'zip'])('%s', compression => {
    const file = join(folder, `theirs-${compression}.exr`)
    const expected = python<Record<string, number[]>>(
      `
import sys, json, numpy as np, OpenImageIO as o
r = np.random.default_rng(4); w, h = ${WIDTH}, ${HEIGHT}
a = (r.standard_normal((h, w, 3)) * 20).astype(np.float32); a[3:9] = 0.25
s = o.ImageSpec(w, h, 3, o.FLOAT); s.channelnames = ('R', 'G', 'depth.Z'); s.channelformats = (o.TypeDesc('half'), o.TypeDesc('half'), o.TypeDesc('float'))
s.x, s.y = 7, 11; s.full_x, s.full_y, s.full_width, s.full_height = 0, 0, 80, 60
s.attribute('compression', '${compression}')
f = o.ImageOutput.create(sys.argv[1]); f.open(sys.argv[1], s); f.write_image(a); f.close()
a[..., :2] = a[..., :2].astype(np.float16)
print(json.dumps({n: [float(v) for v in a[..., c].reshape(-1)] for c, n in enumerate(s.channelnames)}))`,
      file,
    )
    const image = readExr(readFileSync(file))
    expect(image.dataWindow).toEqual({ xMin: 7, yMin: 11, xMax: 7 + WIDTH - 1, yMax: 11 + HEIGHT - 1 })
    expect(image.displayWindow).toEqual({ xMin: 0, yMin: 0, xMax: 79, yMax: 59 })
    for (const { name, type, data } of image.channels)
      expect(Array.from(data, value => (type === 'half' ? halfToFloat(value) : value))).toEqual(expected[name])
  })

  it('and the two agree by idiff after a round through the command line', () => {
    const from = join(folder, 'theirs-zip.exr')
    const to = join(folder, 'round.exr')
    execFileSync(process.execPath, ['bin/northmist.mjs', 'convert', from, to, '--compression', 'rle'])
    execFileSync('idiff', ['-a', from, to])
  })
})

it('half floats round to nearest even as numpy does', () => {
  const values = [
    0,
    1,
    -1,
    65504,
    65519,
    65520,
    1e9,
    5.96e-8,
    2.98e-8,
    3e-8,
    6.1e-5,
    0.1,
    1 / 3,
    2049,
    2051,
    -0.00012,
    1.0009765625,
    1.00048828125,
  ]
  const expected = python<number[]>(
    `
import sys, json, numpy as np
np.seterr(over='ignore')
print(json.dumps([int(np.float32(v).astype(np.float16).view(np.uint16)) for v in json.loads(sys.argv[1])]))`,
    JSON.stringify(values),
  )
  expect(values.map(value => floatToHalf(Math.fround(value)))).toEqual(expected)
  for (let code = 0; code < 65536; code++)
    if (!Number.isNaN(halfToFloat(code))) expect(floatToHalf(halfToFloat(code))).toBe(code)
})

it('attributes come back byte for byte', () => {
  const attributes = [
    stringAttribute('owner', 'nobody'),
    { name: 'odd', type: 'somethingNew', value: Uint8Array.of(1, 2, 250) },
  ]
  const image = readExr(
    writeExr({
      dataWindow: emptyWindow(WIDTH, HEIGHT),
      displayWindow: emptyWindow(WIDTH, HEIGHT),
      compression: 'zip',
      channels: [channel('Y', 'float', 1)],
      attributes,
    }),
  )
  for (const attribute of attributes)
    expect(image.attributes.find(found => found.name === attribute.name)).toEqual(attribute)
  expect(attributeValue(image.attributes.find(found => found.name === 'odd')!)).toBe('0102fa')
})

describe('damaged files', () => {
  const whole = writeExr({
    dataWindow: emptyWindow(WIDTH, HEIGHT),
    displayWindow: emptyWindow(WIDTH, HEIGHT),
    compression: 'zip',
    channels: [channel('Y', 'float', 1), channel('A', 'half', 2)],
    attributes: [],
  })
  it('cut off anywhere are refused with a sentence', () => {
    for (let length = 0; length < whole.length - 1; length += Math.max(1, Math.floor(whole.length / 211)))
      expect(() => readExr(whole.slice(0, length)), `cut at ${length}`).toThrow(BadInput)
  })
  it('claiming a huge size are refused before memory is taken', () => {
    const text = Buffer.from(whole)
    const at = text.indexOf('dataWindow') + 'dataWindow'.length + 1 + 'box2i'.length + 1 + 4
    text.writeInt32LE(2000000000, at + 8)
    expect(() => readExr(text)).toThrow(/at most/)
  })
  it('with one byte changed never crash or hang', () => {
    let refused = 0
    for (let i = 0; i < 600; i++) {
      const bytes = whole.slice()
      const at = (i * 7919) % bytes.length
      bytes[at] = bytes[at]! ^ (1 + ((i * 31) % 255))
      try {
        readExr(bytes)
      } catch (error) {
        expect(error).toBeInstanceOf(BadInput)
        refused++
      }
    }
    expect(refused).toBeGreaterThan(50)
  })
})
