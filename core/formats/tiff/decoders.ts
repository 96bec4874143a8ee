// Strips and tiles of TIFF unpacked within what the header says that they hold: geotiff's own decoders believe the data,
// which may name no end or inflate a thousandfold. TIFF 6.0, sections 9 (PackBits) and 13 (LZW); Deflate as in Adobe's
// TIFF Technical Note 3 (zlib, RFC 1950).
import { addDecoder, BaseDecoder } from 'geotiff'
import { BadInput } from '../errors'
import { inflateLater } from '../zlib'

interface BlockParameters {
  tileWidth: number
  tileHeight: number
  predictor: number
  planarConfiguration: number
  bitsPerSample: number | ArrayLike<number>
  blockBytes: number
}
/** More than any sensible strip or tile: a picture of the greatest size in one strip, four floats a pixel. */
const MOST_BLOCK = 2 ** 31

type Tags = { hasTag(name: string): boolean; loadValue(name: string): Promise<unknown> }
async function parametersOf(tags: Tags): Promise<BlockParameters> {
  const number = async (name: string, other: number): Promise<number> => Number((await tags.loadValue(name)) ?? other)
  const tiled = !tags.hasTag('StripOffsets')
  const high = await number('ImageLength', 0)
  const tileWidth = await number(tiled ? 'TileWidth' : 'ImageWidth', 0)
  const tileHeight = tiled ? await number('TileLength', 0) : Math.min(high, await number('RowsPerStrip', high))
  const planarConfiguration = await number('PlanarConfiguration', 1)
  const bitsPerSample = ((await tags.loadValue('BitsPerSample')) ?? 1) as number | ArrayLike<number>
  const each = typeof bitsPerSample === 'number' ? [bitsPerSample] : Array.from(bitsPerSample)
  const samples = await number('SamplesPerPixel', 1)
  const bits =
    planarConfiguration === 2
      ? Math.max(...each)
      : each.length >= samples
        ? each.reduce((sum, value) => sum + value, 0)
        : each[0]! * samples
  const blockBytes = Math.ceil((tileWidth * bits) / 8) * tileHeight
  if (!(blockBytes > 0 && blockBytes <= MOST_BLOCK))
    throw new BadInput(`This TIFF says that a strip or tile holds ${blockBytes} bytes, which is not read.`)
  return {
    tileWidth,
    tileHeight,
    predictor: await number('Predictor', 1),
    planarConfiguration,
    bitsPerSample,
    blockBytes,
  }
}

abstract class Bounded extends (BaseDecoder as unknown as new (parameters: BlockParameters) => {
  parameters: BlockParameters
}) {
  abstract unpack(packed: Uint8Array, size: number): Uint8Array | Promise<Uint8Array>
  /** A last strip may be shorter than the others. */
  async decodeBlock(buffer: ArrayBufferLike): Promise<ArrayBufferLike> {
    const out = await this.unpack(new Uint8Array(buffer), this.parameters.blockBytes)
    return out.byteOffset === 0 && out.byteLength === out.buffer.byteLength ? out.buffer : out.slice().buffer
  }
}

/** Codes of 9 to 12 bits, highest bit first; what is past the block's end is left. Throws for codes that mean nothing. */
export function unpackLzw(packed: Uint8Array, size: number): Uint8Array {
  const CLEAR = 256
  const END = 257
  const out = new Uint8Array(size)
  const before = new Uint16Array(4096)
  const last = new Uint8Array(4096)
  const long = new Uint32Array(4096)
  for (let i = 0; i < 256; i++) {
    last[i] = i
    long[i] = 1
  }
  let next = 258
  let width = 9
  let held = 0
  let count = 0
  let from = 0
  let to = 0
  let previous = -1
  while (to < size) {
    while (count < width) {
      // Cut off: what there is is shown
      if (from >= packed.length) return out.subarray(0, to)
      held = ((held << 8) | packed[from++]!) & 0xffffff
      count += 8
    }
    const code = (held >> (count - width)) & ((1 << width) - 1)
    count -= width
    if (code === END) break
    if (code === CLEAR) {
      next = 258
      width = 9
      previous = -1
      continue
    }
    if (code > next || (code === next && previous < 0) || (previous < 0 && code > 255))
      throw new BadInput('This TIFF is damaged: its LZW data name what was not said yet.')
    // A code that is only being made stands for the last string and its own first letter
    const known = code < next
    const length = known ? long[code]! : long[previous]! + 1
    let at = to + length - 1
    let entry = known ? code : previous
    if (!known) at--
    for (; at >= to; at--) {
      if (at < size) out[at] = last[entry]!
      entry = before[entry]!
    }
    if (!known && to + length - 1 < size) out[to + length - 1] = out[to]!
    if (previous >= 0 && next < 4096) {
      before[next] = previous
      last[next] = out[to]!
      long[next] = long[previous]! + 1
      next++
    }
    // One code early, as every writer does (section 13)
    if (next + 1 >= 1 << width && width < 12) width++
    previous = code
    to += length
  }
  return to < size ? out.subarray(0, to) : out
}

/** Runs by their length: 0..127 so many plus one as they stand, -1..-127 one so often plus one. */
export function unpackBits(packed: Uint8Array, size: number): Uint8Array {
  const out = new Uint8Array(size)
  let to = 0
  for (let from = 0; from < packed.length && to < size;) {
    const code = (packed[from++]! << 24) >> 24
    if (code >= 0) {
      const run = packed.subarray(from, from + code + 1)
      out.set(run.subarray(0, size - to), to)
      from += code + 1
      to += run.length
    } else if (code !== -128) {
      if (from >= packed.length) break
      out.fill(packed[from++]!, to, Math.min(size, to + 1 - code))
      to += 1 - code
    }
  }
  return to < size ? out.subarray(0, to) : out
}

class Lzw extends Bounded {
  unpack = unpackLzw
}
class PackBits extends Bounded {
  unpack = unpackBits
}
class Deflate extends Bounded {
  async unpack(packed: Uint8Array, size: number): Promise<Uint8Array> {
    try {
      return await inflateLater(packed, size)
    } catch (error) {
      throw new BadInput(`This TIFF is damaged: ${(error as Error).message}`)
    }
  }
}

/** Puts them in the place of geotiff's, which has other packings refused that nothing bounds. */
export function useBoundedDecoders(): void {
  const put = (codes: number[], decoder: typeof Bounded): void =>
    addDecoder(codes, async () => decoder as never, parametersOf as never, false)
  put([5], Lzw as never)
  put([8, 32946], Deflate as never)
  put([32773], PackBits as never)
}
/** Packings that are read: none, LZW, Deflate, PackBits. */
export const READ_PACKINGS = new Map([
  [1, 'none'],
  [5, 'LZW'],
  [8, 'Deflate'],
  [32946, 'Deflate'],
  [32773, 'PackBits'],
])
