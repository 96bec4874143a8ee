// The commonest PNGs (8 and 16 bit grey or colour, with or without alpha, not interlaced, no palette) unpacked by the
// platform's inflate: several times faster than by script, which is what playing footage needs. PNG specification
// (third edition), clauses 7 to 10.
import { BadInput } from '../errors'
import { inflateLater } from '../zlib'
import { chunksOf, pictureData } from './chunks'
import type { CodedPicture } from './coded'

const CHANNELS: Record<number, 1 | 2 | 3 | 4> = { 0: 1, 2: 3, 4: 2, 6: 4 }

/** The picture, or undefined when it is of another kind. The header has been checked. Throws BadInput for damage. */
export async function readPlainPng(bytes: Uint8Array): Promise<CodedPicture | undefined> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const width = view.getUint32(16)
  const height = view.getUint32(20)
  const depth = bytes[24]!
  const channels = CHANNELS[bytes[25]!]
  if (!channels || (depth !== 8 && depth !== 16) || bytes[28] !== 0) return undefined
  const chunks = [...chunksOf(bytes)]
  // A colour that stands for clear is left to the general reader
  if (chunks.some(({ kind, to }) => kind === 'tRNS' || to > bytes.length)) return undefined
  const step = (channels * depth) / 8
  const stride = width * step
  let raw: Uint8Array
  try {
    raw = await inflateLater(pictureData(bytes, chunks), (stride + 1) * height)
  } catch (error) {
    throw new BadInput(`This PNG is damaged: ${(error as Error).message}`)
  }
  if (raw.length !== (stride + 1) * height)
    throw new BadInput('This PNG is damaged: it holds fewer pixels than it says.')
  unfilter(raw, stride, height, step)
  const count = width * height * channels
  if (depth === 8) {
    const data = new Uint8Array(count)
    for (let y = 0; y < height; y++) data.set(raw.subarray(y * (stride + 1) + 1, (y + 1) * (stride + 1)), y * stride)
    return { width, height, channels, maximum: 255, data }
  }
  const data = new Uint16Array(count)
  const row = width * channels
  for (let y = 0, to = 0; y < height; y++)
    for (let at = y * (stride + 1) + 1, end = to + row; to < end; to++, at += 2)
      data[to] = (raw[at]! << 8) | raw[at + 1]!
  return { width, height, channels, maximum: 65535, data }
}

/** Undoes the filters of clause 9 in place; the filter bytes stay where they are. */
function unfilter(raw: Uint8Array, stride: number, height: number, step: number): void {
  for (let y = 0; y < height; y++) {
    const start = y * (stride + 1) + 1
    const end = start + stride
    const up = start - stride - 1
    const kind = raw[start - 1]!
    if (kind === 0) continue
    if (kind === 1) {
      for (let i = start + step; i < end; i++) raw[i] = raw[i]! + raw[i - step]!
    } else if (kind === 2) {
      if (y) for (let i = start, above = up; i < end; i++, above++) raw[i] = raw[i]! + raw[above]!
    } else if (kind === 3) {
      for (let i = start, above = up; i < end; i++, above++)
        raw[i] = raw[i]! + (((i - start >= step ? raw[i - step]! : 0) + (y ? raw[above]! : 0)) >> 1)
    } else if (kind === 4) {
      for (let i = start, above = up; i < end; i++, above++) {
        const a = i - start >= step ? raw[i - step]! : 0
        const b = y ? raw[above]! : 0
        const c = y && i - start >= step ? raw[above - step]! : 0
        const pa = Math.abs(b - c)
        const pb = Math.abs(a - c)
        const pc = Math.abs(a + b - c - c)
        raw[i] = raw[i]! + (pa <= pb && pa <= pc ? a : pb <= pc ? b : c)
      }
    } else throw new BadInput(`This PNG is damaged: filter ${kind} in row ${y} does not exist.`)
  }
}
