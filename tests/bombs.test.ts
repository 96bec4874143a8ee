// Small files that say they are large, or that unpack to far more than they say: refused with a sentence, soon, and
// before memory is taken for them. Made by hand from the specifications; zlib is Node's own.
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { crc32, deflateSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import { readPicture } from '../core/formats/picture/picture'
import { readExrParts } from '../core/formats/exr/read'
import { writeJpeg } from '../core/formats/jpeg/jpeg'
import { python, scratchFolder } from './python'

const folder = scratchFolder()
const u32 = (value: number): Buffer => {
  const out = Buffer.alloc(4)
  out.writeUInt32BE(value >>> 0)
  return out
}
const zeros = (bytes: number): Buffer<ArrayBuffer> => Buffer.from(deflateSync(Buffer.alloc(bytes), { level: 9 }))
/** PNG specification, 5.3. */
function chunk(kind: string, data: Uint8Array): Buffer {
  const body = Buffer.concat([Buffer.from(kind, 'latin1'), data])
  return Buffer.concat([u32(data.length), body, u32(crc32(body))])
}
function png(
  width: number,
  height: number,
  { depth = 8, colour = 2, interlaced = 0, data = zeros(10), more = [] as Buffer[] } = {},
): Buffer {
  const head = Buffer.concat([u32(width), u32(height), Buffer.from([depth, colour, 0, 0, interlaced])])
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]),
    chunk('IHDR', head),
    ...(colour === 3 ? [chunk('PLTE', Buffer.from([0, 0, 0, 255, 255, 255]))] : []),
    ...more,
    chunk('IDAT', data),
    chunk('IEND', Buffer.alloc(0)),
  ])
}

/** ITU-T T.81, B.2: a frame header of another size put into a small picture. */
function jpegOf(width: number, height: number, progressive = false, scans = 1): Buffer {
  const small = Buffer.from(writeJpeg({ width: 16, height: 16, channels: 3, maximum: 255, data: new Uint8Array(768) }))
  const at = small.indexOf(Buffer.from([0xff, 0xc0]))
  small.writeUInt16BE(height, at + 5)
  small.writeUInt16BE(width, at + 7)
  if (!progressive) return small
  small[at + 1] = 0xc2
  const scan = small.indexOf(Buffer.from([0xff, 0xda]))
  const before = small.subarray(0, scan)
  // Scans of one coefficient, each said to be over in one run: end of bands for 32767 blocks and nothing after
  const one = Buffer.from([0xff, 0xda, 0, 8, 1, 1, 0, 1, 1, 0, ...Array.from({ length: 40 }, () => 0)])
  return Buffer.concat([before, ...Array.from({ length: scans }, () => one), Buffer.from([0xff, 0xd9])])
}

const i32 = (value: number): Buffer => {
  const out = Buffer.alloc(4)
  out.writeInt32LE(value)
  return out
}
const exrAttribute = (name: string, type: string, value: Buffer): Buffer =>
  Buffer.concat([Buffer.from(`${name}\0${type}\0`), i32(value.length), value])
/** "OpenEXR File Layout": attributes by name, type and size, then the table of offsets. */
function exrOf(
  width: number,
  height: number,
  { channels = ['B', 'G', 'R'], compression = 3, blocks = 0, flags = 0, more = [] as Buffer[], table = true } = {},
): Buffer {
  const attribute = exrAttribute
  const box = Buffer.concat([0, 0, width - 1, height - 1].map(i32))
  const list = Buffer.concat([
    ...channels.map(name => Buffer.concat([Buffer.from(`${name}\0`), i32(2), i32(0), i32(1), i32(1)])),
    Buffer.from([0]),
  ])
  const head = Buffer.concat([
    Buffer.from([0x76, 0x2f, 0x31, 1, 2, flags, 0, 0]),
    attribute('channels', 'chlist', list),
    attribute('compression', 'compression', Buffer.from([compression])),
    attribute('dataWindow', 'box2i', box),
    attribute('displayWindow', 'box2i', box),
    attribute('lineOrder', 'lineOrder', Buffer.from([0])),
    attribute('pixelAspectRatio', 'float', Buffer.from([0, 0, 0x80, 0x3f])),
    attribute('screenWindowCenter', 'v2f', Buffer.alloc(8)),
    attribute('screenWindowWidth', 'float', Buffer.from([0, 0, 0x80, 0x3f])),
    ...more,
    Buffer.from([0]),
  ])
  return table ? Buffer.concat([head, Buffer.alloc(blocks * 8)]) : head
}
/** One block of deep scan lines whose one pixel says that it has all the samples. */
function deepBomb(samples: number): Buffer {
  const kind = Buffer.from('type\0string\0\x0c\0\0\0deepscanline', 'latin1')
  const head = exrOf(1, 1, { channels: ['A', 'Z'], compression: 2, flags: 8, more: [kind], table: false })
  const counts = Buffer.alloc(4)
  counts.writeInt32LE(samples)
  const size = samples * 8
  const packed = zeros(size)
  const sizes = Buffer.alloc(28)
  sizes.writeInt32LE(0, 0)
  sizes.writeBigUInt64LE(BigInt(counts.length), 4)
  sizes.writeBigUInt64LE(BigInt(packed.length), 12)
  sizes.writeBigUInt64LE(BigInt(size), 20)
  const offset = Buffer.alloc(8)
  offset.writeBigUInt64LE(BigInt(head.length + 8))
  return Buffer.concat([head, offset, sizes, counts, packed])
}

const FILES: [string, Buffer, RegExp][] = [
  ['larger than is read.png', png(60000, 60000), /at most/],
  ['says 64 million pixels.png', png(8192, 8192, { depth: 16, colour: 6 }), /fewer pixels than it says/],
  ['says so, interlaced.png', png(8192, 8192, { depth: 16, colour: 6, interlaced: 1 }), /fewer pixels than it says/],
  ['says so, with a palette.png', png(8192, 8192, { colour: 3 }), /fewer pixels than it says/],
  ['inflates to a gigabyte.png', png(10, 10, { data: zeros(2 ** 30) }), /damaged/],
  ['inflates to a gigabyte, interlaced.png', png(10, 10, { interlaced: 1, data: zeros(2 ** 30) }), /damaged/],
  ['larger than is read.jpg', jpegOf(65500, 65500), /at most/],
  ['says 64 million pixels.jpg', jpegOf(8192, 8192), /fewer pixels than it says|damaged/],
  ['says so, progressive.jpg', jpegOf(8192, 8192, true), /fewer pixels than it says|damaged/],
  ['ten thousand scans.jpg', jpegOf(2048, 2048, true, 10000), /scans/],
  [
    'says 64 million pixels.hdr',
    Buffer.from('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 8192 +X 8192\n\x02\x02\x00\x00'),
    /cut off/,
  ],
  ['says 64 million pixels.exr', exrOf(8192, 8192, { blocks: 512 }), /cut off/],
  [
    'says five gigabytes.exr',
    exrOf(8192, 8192, {
      blocks: 512,
      channels: Array.from({ length: 20 }, (_, i) => `c${String.fromCharCode(65 + i)}`),
    }),
    /cut off/,
  ],
  ['a pixel of sixteen million samples.exr', deepBomb(2 ** 24), /samples/],
]

describe('small files that would be large', () => {
  it('are refused with a sentence, in less than 160 MB over what an honest small file takes, within seconds', () => {
    const honest = join(folder, 'honest.png')
    writeFileSync(honest, png(10, 10, { data: zeros(310) }))
    const paths = FILES.map(([name, bytes]) => {
      const path = join(folder, name)
      writeFileSync(path, bytes)
      return path
    })
    const script = `
import json, os, resource, subprocess, sys, time
out = []
for path in sys.argv[1:]:
    started = time.time()
    child = subprocess.Popen(['node', 'bin/northmist.mjs', 'convert', path, path + '.out.png'], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
    said = child.stderr.read().decode()
    _, status, usage = os.wait4(child.pid, 0)
    out.append([os.waitstatus_to_exitcode(status), said, usage.ru_maxrss / 1024, time.time() - started])
print(json.dumps(out))`
    const [plain, ...results] = python<[number, string, number, number][]>(script, honest, ...paths)
    expect(plain![0]).toBe(0)
    for (const [i, [code, said, megabytes, seconds]] of results.entries()) {
      const [name, , says] = FILES[i]!
      expect.soft(code, name).toBe(2)
      expect.soft(said, name).toMatch(says)
      expect.soft(megabytes - plain![2], name).toBeLessThan(160)
      expect.soft(seconds, name).toBeLessThan(20)
    }
  }, 300000)

  it('words and profiles beside the pixels are not unpacked', async () => {
    const profile = Buffer.concat([Buffer.from('p\0\0', 'latin1'), zeros(2 ** 29)])
    const words = Buffer.concat([Buffer.from('w\0\0', 'latin1'), zeros(2 ** 29)])
    const bytes = png(8, 8, {
      depth: 1,
      colour: 3,
      data: zeros(16),
      more: [chunk('iCCP', profile), chunk('zTXt', words)],
    })
    const before = process.memoryUsage().rss
    const { width } = await readPicture(new Uint8Array(bytes))
    expect(width).toBe(8)
    expect(process.memoryUsage().rss - before).toBeLessThan(300 * 2 ** 20)
  })

  it('parts of one file count together', () => {
    // Nine parts of 800 MB each, of which nothing is there but the offsets
    const parts = 9
    const list = Array.from({ length: 3 }, (_, i) => `c${i}`)
    const heads = Array.from({ length: parts }, (_, i) =>
      exrOf(8192, 8192, {
        channels: list,
        compression: 9,
        flags: 0x10,
        table: false,
        more: [
          exrAttribute('name', 'string', Buffer.from(`p${i}`)),
          exrAttribute('type', 'string', Buffer.from('scanlineimage')),
          exrAttribute('chunkCount', 'int', Buffer.from([32, 0, 0, 0])),
        ],
      }),
    )
    const file = Buffer.concat([
      heads[0]!.subarray(0, 8),
      ...heads.map(head => head.subarray(8)),
      Buffer.from([0]),
      Buffer.alloc(parts * 32 * 8),
    ])
    expect(() => readExrParts(new Uint8Array(file))).toThrow('This OpenEXR file would take 7 GiB.')
  })
})
