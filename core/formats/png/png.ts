// PNG by fast-png: 8 and 16 bit, grey, colour, palette, alpha.
import { decode, encode } from 'fast-png'
import { BadInput, checkSize } from '../errors'
import type { CodedPicture } from './coded'
import { inflateLater } from '../zlib'
import { joined } from '../bytes'
import { chunksOf, pictureData } from './chunks'
import { readPlainPng } from './fast'

export type { CodedPicture } from './coded'

export const isPng = (bytes: Uint8Array): boolean =>
  bytes.length > 8 && bytes[0] === 0x89 && bytes[1] === 0x50 && bytes[2] === 0x4e && bytes[3] === 0x47

/** As readPng, by the platform's inflate where the file is of a common kind. */
export async function readPngLater(bytes: Uint8Array): Promise<CodedPicture> {
  checked(bytes)
  const plain = await readPlainPng(bytes)
  if (plain) return plain
  await boundedPng(bytes)
  return readPng(pixelsOnly(bytes))
}

/** Samples of a pixel by the kind of colour (PNG specification, 11.2.1). */
const SAMPLES: Record<number, number> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 }

/** The file without profiles and words, which the general reader would unpack whatever their size. */
function pixelsOnly(bytes: Uint8Array): Uint8Array {
  const kept = [...chunksOf(bytes)].filter(({ kind }) => ['IHDR', 'PLTE', 'tRNS', 'IDAT', 'IEND'].includes(kind))
  return joined([bytes.subarray(0, 8), ...kept.map(({ from, to }) => bytes.subarray(from, to))])
}

/**
 * Throws BadInput when the picture inflates to more or to less than its header says: the general reader takes memory for
 * all of it.
 */
async function boundedPng(bytes: Uint8Array): Promise<void> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const [width, height, depth] = [view.getUint32(16), view.getUint32(20), bytes[24]!]
  const samples = SAMPLES[bytes[25]!]
  if (!samples || ![1, 2, 4, 8, 16].includes(depth))
    throw new BadInput(`This PNG is of a kind that does not exist: colour ${bytes[25]}, ${depth} bits.`)
  const bits = width * samples * depth
  // Interlaced it is seven pictures, each row with a byte before it
  const most = height * (Math.ceil(bits / 8) + 2) * 2 + 64
  let raw: Uint8Array
  try {
    raw = await inflateLater(pictureData(bytes, [...chunksOf(bytes)]), most)
  } catch (error) {
    throw new BadInput(`This PNG is damaged: ${(error as Error).message}`)
  }
  if (raw.length < (bits * height) / 8) throw new BadInput('This PNG is damaged: it holds fewer pixels than it says.')
}

/** Throws BadInput before anything is inflated: cut off, or larger than is read. */
function checked(bytes: Uint8Array): void {
  if (bytes.length < 33 || !isPng(bytes)) throw new BadInput('This PNG ends before its header does.')
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  // The size is checked before anything is inflated
  checkSize('This PNG', view.getUint32(16), view.getUint32(20))
  if (![...chunksOf(bytes)].some(({ kind }) => kind === 'IEND'))
    throw new BadInput('This PNG is cut off: its end is missing.')
}

export function readPng(bytes: Uint8Array): CodedPicture {
  checked(bytes)
  let image
  try {
    image = decode(bytes, { checkCrc: true })
  } catch (error) {
    throw new BadInput(`This PNG is damaged: ${(error as Error).message}`)
  }
  let data = image.data as Uint8Array | Uint16Array
  let channels = image.channels as 1 | 2 | 3 | 4
  if (image.palette) {
    const palette = image.palette
    const depth = image.depth
    const out = new Uint8Array(image.width * image.height * 4)
    const stride = Math.ceil((image.width * depth) / 8)
    for (let y = 0; y < image.height; y++) {
      for (let x = 0; x < image.width; x++) {
        const bit = x * depth
        const index =
          depth === 8
            ? data[y * stride + x]!
            : (data[y * stride + (bit >> 3)]! >> (8 - depth - (bit & 7))) & ((1 << depth) - 1)
        const colour = palette[index] ?? [0, 0, 0]
        out.set([colour[0]!, colour[1]!, colour[2]!, colour[3] ?? 255], (y * image.width + x) * 4)
      }
    }
    data = out
    channels = 4
  } else if (image.depth < 8) {
    const depth = image.depth
    const stride = Math.ceil((image.width * depth) / 8)
    const scale = 255 / ((1 << depth) - 1)
    const out = new Uint8Array(image.width * image.height)
    for (let y = 0; y < image.height; y++) {
      for (let x = 0; x < image.width; x++) {
        const bit = x * depth
        out[y * image.width + x] =
          ((data[y * stride + (bit >> 3)]! >> (8 - depth - (bit & 7))) & ((1 << depth) - 1)) * scale
      }
    }
    data = out
  }
  return { width: image.width, height: image.height, channels, maximum: image.depth === 16 ? 65535 : 255, data }
}

export function writePng(picture: CodedPicture): Uint8Array {
  return encode({
    width: picture.width,
    height: picture.height,
    data: picture.data as Uint8Array | Uint16Array,
    channels: picture.channels,
    depth: picture.maximum === 65535 ? 16 : 8,
  })
}
