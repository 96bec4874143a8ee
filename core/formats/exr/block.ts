// Compression of OpenEXR blocks: RLE and ZIP share a reordering (even bytes, then odd) and a difference of neighbours,
// which makes the high bytes of numbers compress. A block that would grow is stored as it is.
import { inflateLater, zlib } from '../zlib'
import { preparedBytes, restoredBytes, runLengthDecode, runLengthEncode } from './bytes'
import { b44Decode } from './b44'
import { dwaDecode } from './dwa'
import { dwaEncode } from './dwaEncode'
import { pizDecode, pizEncode } from './piz'
import type { BlockChannel } from './planes'
import { pxr24Decode } from './pxr24'

export const COMPRESSIONS = ['none', 'rle', 'zips', 'zip', 'piz', 'pxr24', 'b44', 'b44a', 'dwaa', 'dwab'] as const
/** What is written; the others are only read. */
export const WRITTEN = ['none', 'rle', 'zips', 'zip', 'piz', 'dwaa', 'dwab'] as const
export type WrittenCompression = (typeof WRITTEN)[number]
/** Lines of a block of scan lines. */
export const LINES: Record<Compression, number> = {
  none: 1,
  rle: 1,
  zips: 1,
  zip: 16,
  piz: 32,
  pxr24: 16,
  b44: 32,
  b44a: 32,
  dwaa: 32,
  dwab: 256,
}

export type Compression = (typeof COMPRESSIONS)[number]

/** What a block's pixels are: for the codecs that look at them. */
export interface BlockShape {
  channels: readonly BlockChannel[]
  rows: number
  size: number
}

export function decompressBlock(
  compression: Compression,
  packed: Uint8Array,
  { channels, rows, size }: BlockShape,
): Uint8Array {
  const whole = stored(compression, packed, size)
  if (whole) return whole
  switch (compression) {
    case 'rle':
      return restoredBytes(runLengthDecode(packed, size), size)
    case 'piz':
      return pizDecode(packed, channels, rows, size)
    case 'pxr24':
      return pxr24Decode(packed, channels, rows, size)
    case 'b44':
    case 'b44a':
      return b44Decode(packed, channels, rows, size)
    case 'dwaa':
    case 'dwab':
      return dwaDecode(packed, channels, rows, size)
    default:
      return restoredBytes(zlib().inflate(packed, size), size)
  }
}

/** The same with the platform's own inflate; `use` gets the bytes, which are good only until it returns. */
export async function decompressBlockLater(
  compression: Compression,
  packed: Uint8Array,
  shape: BlockShape,
  use: (raw: Uint8Array) => void,
): Promise<void> {
  if ((compression !== 'zip' && compression !== 'zips') || packed.length >= shape.size) {
    use(decompressBlock(compression, packed, shape))
    return
  }
  use(restoredBytes(await inflateLater(packed, shape.size), shape.size))
}

/** The block itself where it is not compressed. */
function stored(compression: Compression, packed: Uint8Array, size: number): Uint8Array | undefined {
  if (packed.length > size) throw new Error('it is longer than its pixels.')
  if (packed.length === size) return packed
  if (compression === 'none') throw new Error(`${packed.length} bytes where ${size} belong.`)
  return undefined
}

export function compressBlock(
  compression: WrittenCompression,
  raw: Uint8Array,
  channels: readonly BlockChannel[],
  rows: number,
): Uint8Array {
  if (compression === 'none') return raw
  if (compression === 'piz') {
    const packed = pizEncode(raw, channels, rows)
    return packed.length < raw.length ? packed : raw
  }
  if (compression === 'dwaa' || compression === 'dwab') {
    const packed = dwaEncode(raw, channels, rows, compression === 'dwaa')
    return packed.length < raw.length ? packed : raw
  }
  const prepared = preparedBytes(raw)
  const packed = compression === 'rle' ? runLengthEncode(prepared) : zlib().deflate(prepared)
  return packed.length < raw.length ? packed : raw
}
