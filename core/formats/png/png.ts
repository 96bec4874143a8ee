// PNG by fast-png: 8 and 16 bit, grey, colour, palette, alpha.
import { decode, encode } from 'fast-png'
import { BadInput, checkSize } from '../errors'
import type { CodedPicture } from './coded'
import { inflateLater } from '../zlib'
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
  return readPng(bytes)
}

/** Throws BadInput when the picture inflates to more than its header says: the general reader would take it all. */
async function boundedPng(bytes: Uint8Array): Promise<void> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const [width, height, depth] = [view.getUint32(16), view.getUint32(20), bytes[24]!]
  // Four samples a pixel at most; interlaced it is seven pictures, each row with a byte before it
  const most = height * (Math.ceil((width * 4 * Math.max(8, depth)) / 8) + 2) * 2 + 64
  const parts: Uint8Array[] = []
  for (let at = 8; at + 12 <= bytes.length; at += 12 + view.getUint32(at))
    if (view.getUint32(at + 4) === 0x49444154) parts.push(bytes.subarray(at + 8, at + 8 + view.getUint32(at)))
  try {
    await inflateLater(new Uint8Array(await new Blob(parts as BlobPart[]).arrayBuffer()), most)
  } catch (error) {
    throw new BadInput(`This PNG is damaged: ${(error as Error).message}`)
  }
}

/** Throws BadInput before anything is inflated: cut off, or larger than is read. */
function checked(bytes: Uint8Array): void {
  if (bytes.length < 33 || !isPng(bytes)) throw new BadInput('This PNG ends before its header does.')
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  // The size is checked before anything is inflated
  checkSize('This PNG', view.getUint32(16), view.getUint32(20))
  if (!hasEnd(bytes)) throw new BadInput('This PNG is cut off: its end is missing.')
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

function hasEnd(bytes: Uint8Array): boolean {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  for (let at = 8; at + 12 <= bytes.length;) {
    const length = view.getUint32(at)
    if (view.getUint32(at + 4) === 0x49454e44) return true
    at += 12 + length
  }
  return false
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
