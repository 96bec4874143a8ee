// TIFF as OpenImageIO 2.4 writes it, against its own reading of the same file; damaged and swelling files within bounds;
// colours that are not read are refused by name.
import { execFileSync } from 'node:child_process'
import { deflateSync } from 'node:zlib'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { BadInput } from '../../core/formats/errors'
import { readTiff, writeTiff } from '../../core/formats/tiff/tiff'
import { python, scratchFolder } from '../python'

const folder = scratchFolder()
const make = (name: string, ...args: string[]): Uint8Array => {
  const path = join(folder, name)
  execFileSync('oiiotool', ['--pattern', 'noise', '67x45', '3', ...args, '-o', path], { stdio: 'pipe' })
  return readFileSync(path)
}
const theirs = (name: string): number[] =>
  python<number[]>(
    `
import sys, json, numpy as np, OpenImageIO as o
i = o.ImageInput.open(sys.argv[1]); s = i.spec()
print(json.dumps([float(v) for v in np.asarray(i.read_image(s.format)).reshape(-1)]))`,
    join(folder, name),
  )

describe('packings against OpenImageIO', () => {
  it.each(['lzw', 'zip', 'packbits', 'none'])('%s, in strips and tiles, 8, 16 bit and float', async compression => {
    for (const depth of ['uint8', 'uint16', 'float'])
      for (const tile of [[], ['--tile', '32', '32']]) {
        const name = `${compression}-${depth}-${tile.length}.tif`
        const { data } = await readTiff(make(name, ...tile, '-d', depth, '--compression', compression))
        expect([...data]).toEqual(theirs(name))
      }
  })
})

/** Where the value of a tag of a little-endian file stands. */
function tagAt(bytes: Uint8Array, wanted: number): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset)
  const directory = view.getUint32(4, true)
  for (let i = 0; i < view.getUint16(directory, true); i++)
    if (view.getUint16(directory + 2 + i * 12, true) === wanted) return directory + 2 + i * 12 + 8
  throw new Error(`no tag ${wanted}`)
}

describe('what is not read', () => {
  it.each([
    [3, /palette/],
    [5, /CMYK/],
    [6, /YCbCr/],
    [8, /L\*a\*b\*/],
    [32803, /mosaic/],
  ])('colours of kind %d are refused by name', async (kind, says) => {
    const bytes = writeTiff({ width: 4, height: 4, channels: 3, maximum: 255, data: new Uint8Array(48) })
    new DataView(bytes.buffer).setUint16(tagAt(bytes, 262), kind, true)
    await expect(readTiff(bytes)).rejects.toThrow(says)
  })
  it('so are packings that nothing bounds', async () => {
    const bytes = writeTiff({ width: 4, height: 4, channels: 3, maximum: 255, data: new Uint8Array(48) })
    new DataView(bytes.buffer).setUint16(tagAt(bytes, 259), 50000, true)
    await expect(readTiff(bytes)).rejects.toThrow(/LZW, Deflate, PackBits/)
  })
})

describe('bounds', () => {
  it('a strip that inflates to a gigabyte is refused before it does', async () => {
    const packed = deflateSync(Buffer.alloc(2 ** 30), { level: 9 })
    const small = writeTiff({ width: 8, height: 8, channels: 1, maximum: 255, data: new Uint8Array(64) })
    const bytes = new Uint8Array(small.length + packed.length)
    bytes.set(small)
    bytes.set(packed, small.length)
    const view = new DataView(bytes.buffer)
    view.setUint16(tagAt(bytes, 259), 8, true)
    view.setUint32(tagAt(bytes, 273), small.length, true)
    view.setUint32(tagAt(bytes, 279), packed.length, true)
    const before = process.memoryUsage().rss
    await expect(readTiff(bytes)).rejects.toThrow(BadInput)
    expect(process.memoryUsage().rss - before).toBeLessThan(200 * 2 ** 20)
  })
  it('a tile that says it is enormous is refused', async () => {
    const bytes = make('tiled.tif', '--tile', '32', '32', '-d', 'uint8', '--compression', 'lzw').slice()
    const view = new DataView(bytes.buffer)
    for (const tag of [322, 323]) {
      const at = tagAt(bytes, tag)
      if (view.getUint16(at - 6, true) === 3) view.setUint16(at, 65520, true)
      else view.setUint32(at, 65520, true)
    }
    await expect(readTiff(bytes)).rejects.toThrow(BadInput)
  })
  it.each(['lzw', 'zip', 'packbits'])('damaged %s files are read or refused, each in a moment', async compression => {
    const bytes = make(`hurt-${compression}.tif`, '-d', 'uint8', '--compression', compression)
    let state = 12345
    const random = (most: number): number => {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0
      return state % most
    }
    for (let i = 0; i < 150; i++) {
      const hurt = bytes.slice()
      for (let k = 0; k <= i % 12; k++) hurt[8 + random(hurt.length - 8)] = random(256)
      const started = performance.now()
      await readTiff(hurt).catch(error => expect(error).toBeInstanceOf(BadInput))
      expect(performance.now() - started).toBeLessThan(5000)
    }
  })
})
