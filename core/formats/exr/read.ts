// Pixels of OpenEXR files: each part's blocks taken apart, several parts put together into one picture.
import { BadInput } from '../errors'
import type { ExrAttribute } from './attributes'
import { decompressBlock, decompressBlockLater, LINES, type BlockShape } from './block'
import { flattened, readDeepChunk, type DeepRow } from './deep'
import { floatsToHalves, halvesToFloats } from './half'
import { boxHeight, boxWidth, readExrHeaders, type Box, type HeaderChannel, type PartHeader } from './header'
import { blockBytes, BYTES, type BlockChannel } from './planes'
import {
  aroundAll,
  attributesTogether,
  checkTogether,
  inWindow,
  MAXIMUM_BYTES,
  namesTogether,
  together,
  valuesFor,
  type ExrChannel,
  type ExrImage,
  type ExrPart,
} from './together'

/** Of one block as it is unpacked, all its channels. */
const MAXIMUM_BLOCK = 2 ** 31

/** A block: where it stands in the data window, its pixels as they are packed. */
interface Chunk {
  index: number
  x: number
  y: number
  width: number
  rows: number
  packed: Uint8Array
  shape: BlockShape
  deepAt: number
}
interface Plan {
  part: PartHeader
  chunks(): Generator<Chunk>
  put(chunk: Chunk, raw: Uint8Array): void
  putDeep(chunk: Chunk): void
  finish(): ExrImage
}

/** Values of a channel on pixels from..from+count-1, one for `sampling` of them. */
const sampled = (from: number, count: number, sampling: number): number =>
  Math.floor((from + count - 1) / sampling) - Math.ceil(from / sampling) + 1

/** Throws BadInput when the wanted channels of the parts together would take more than is read, or a block does. */
function checkMemory(parts: readonly PartHeader[], wanted: (part: PartHeader, name: string) => boolean): void {
  let memory = 0
  for (const part of parts) {
    const { dataWindow: window, channels, tiles, compression, deep } = part
    const pixels = boxWidth(window) * boxHeight(window)
    for (const { name, type } of channels) if (wanted(part, name)) memory += (deep ? 4 : BYTES[type]) * pixels
    const most = tiles ? tiles.width * tiles.height : boxWidth(window) * LINES[compression]
    const block = channels.reduce((sum, { type }) => sum + BYTES[type], 0) * Math.min(pixels, most)
    if (block > MAXIMUM_BLOCK)
      throw new BadInput(`A block of this OpenEXR file says that its pixels take ${Math.round(block / 2 ** 30)} GiB.`)
  }
  if (memory > MAXIMUM_BYTES) throw new BadInput(`This OpenEXR file would take ${Math.round(memory / 2 ** 30)} GiB.`)
}

function planOf(
  bytes: Uint8Array,
  part: PartHeader,
  number: number,
  several: boolean,
  wanted: (name: string) => boolean,
): Plan {
  const { dataWindow: window, channels, tiles, compression } = part
  const width = boxWidth(window)
  const height = boxHeight(window)
  const lines = LINES[compression]
  const chosen = channels.map(channel => wanted(channel.name))
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const sizes = channels.map(
    ({ xSampling, ySampling }) =>
      [sampled(window.xMin, width, xSampling), sampled(window.yMin, height, ySampling)] as const,
  )
  if (sizes.some(([w, h]) => w < 1 || h < 1)) throw new BadInput('A channel of this OpenEXR file has no value at all.')
  if ((tiles || part.deep) && channels.some(channel => channel.xSampling > 1 || channel.ySampling > 1))
    throw new BadInput(
      'This OpenEXR file has channels with fewer values than pixels in tiles or deep, which the format does not allow.',
    )
  const across = tiles ? Math.ceil(width / tiles.width) : 1
  const down = tiles ? Math.ceil(height / tiles.height) : Math.ceil(height / lines)
  const first = part.table
  const offsetOf = (index: number): number => {
    const at = Number(view.getBigUint64(first + index * 8, true))
    if (at < first || at + (several ? 4 : 0) + (tiles ? 16 : 4) + 4 > bytes.length)
      throw new BadInput(`This OpenEXR file is cut off: block ${index} of ${part.chunks} is missing.`)
    return at
  }
  // Before memory is taken for the pixels
  for (let index = 0; index < across * down; index++) offsetOf(index)
  const data = channels.map(({ type }, i) =>
    valuesFor(part.deep ? (type === 'uint' ? 'uint' : 'float') : type, chosen[i] ? sizes[i]![0] * sizes[i]![1] : 0),
  )
  const targets = data.map(array => new Uint8Array(array.buffer))
  const shapeOf = (x: number, y: number, across: number, rows: number): BlockShape => {
    const list = channels.map(({ name, type, linear, xSampling, ySampling }): BlockChannel => ({
      name,
      type,
      linear,
      across: sampled(window.xMin + x, across, xSampling),
      down: Math.max(0, sampled(window.yMin + y, rows, ySampling)),
      has: line => (window.yMin + y + line) % ySampling === 0,
    }))
    return { channels: list, rows, size: blockBytes(list) }
  }
  function* chunks(): Generator<Chunk> {
    const seen = new Uint8Array(across * down)
    for (let index = 0; index < across * down; index++) {
      let at = offsetOf(index)
      if (several) {
        if (view.getInt32(at, true) !== number)
          throw new BadInput(`This OpenEXR file is damaged: block ${index} belongs to another part.`)
        at += 4
      }
      let x = 0
      let y: number
      let place: number
      if (tiles) {
        const tx = view.getInt32(at, true)
        const ty = view.getInt32(at + 4, true)
        if (
          view.getInt32(at + 8, true) ||
          view.getInt32(at + 12, true) ||
          tx < 0 ||
          ty < 0 ||
          tx >= across ||
          ty >= down
        )
          throw new BadInput(`This OpenEXR file is damaged: block ${index} is tile ${tx}, ${ty}.`)
        x = tx * tiles.width
        y = ty * tiles.height
        place = ty * across + tx
        at += 16
      } else {
        y = view.getInt32(at, true) - window.yMin
        place = y / lines
        if (y < 0 || y >= height || y % lines)
          throw new BadInput(`This OpenEXR file is damaged: block ${index} stands at line ${y}.`)
        at += 4
      }
      if (seen[place]) throw new BadInput(`This OpenEXR file is damaged: block ${index} is there twice.`)
      seen[place] = 1
      const wide = Math.min(tiles?.width ?? width, width - x)
      const rows = Math.min(tiles?.height ?? lines, height - y)
      if (part.deep) {
        yield { index, x, y, width: wide, rows, packed: bytes, shape: { channels: [], rows, size: 0 }, deepAt: at }
        continue
      }
      const size = view.getInt32(at, true)
      if (size < 0 || at + 4 + size > bytes.length)
        throw new BadInput(`This OpenEXR file is cut off in block ${index} of ${part.chunks}.`)
      yield {
        index,
        x,
        y,
        width: wide,
        rows,
        packed: bytes.subarray(at + 4, at + 4 + size),
        shape: shapeOf(x, y, wide, rows),
        deepAt: 0,
      }
    }
  }
  const put = ({ x, y, rows, shape }: Chunk, raw: Uint8Array): void => {
    let at = 0
    for (let row = 0; row < rows; row++) {
      for (let c = 0; c < channels.length; c++) {
        const own = shape.channels[c]!
        if (!own.has(row)) continue
        const size = BYTES[own.type]
        const length = size * own.across
        if (chosen[c]) {
          const line = sampled(window.yMin, y + row + 1, channels[c]!.ySampling) - 1
          targets[c]!.set(
            raw.subarray(at, at + length),
            (line * sizes[c]![0] + (x === 0 ? 0 : sampled(window.xMin, x, channels[c]!.xSampling))) * size,
          )
        }
        at += length
      }
    }
  }
  const putDeep = (chunk: Chunk): void => {
    readDeepChunk(bytes, chunk.deepAt, compression, channels, chunk.width, chunk.rows, (row: DeepRow, line) =>
      flattened(row, channels, (c, x, value) => {
        if (chosen[c]) data[c]![(chunk.y + line) * width + chunk.x + x] = value
      }),
    )
  }
  const finish = (): ExrImage => ({
    dataWindow: window,
    displayWindow: part.displayWindow,
    compression,
    attributes: part.attributes,
    channels: channels.flatMap((channel, i) =>
      chosen[i]
        ? [
            {
              name: channel.name,
              type: part.deep && channel.type === 'half' ? ('float' as const) : channel.type,
              linear: channel.linear,
              data: spreadOut(data[i]!, channel, window, sizes[i]!),
            },
          ]
        : [],
    ),
  })
  return { part, chunks, put, putDeep, finish }
}

/**
 * Values for every pixel of a channel that has fewer: halves and floats in a straight line between, integers from the
 * last.
 */
function spreadOut(
  data: ExrChannel['data'],
  { type, xSampling, ySampling }: HeaderChannel,
  window: Box,
  [across, down]: readonly [number, number],
): ExrChannel['data'] {
  if (xSampling === 1 && ySampling === 1) return data
  const width = boxWidth(window)
  const height = boxHeight(window)
  const out = new Float32Array(width * height)
  const from = type === 'half' ? halvesToFloats(data as Uint16Array) : data
  const firstX = Math.ceil(window.xMin / xSampling) * xSampling
  const firstY = Math.ceil(window.yMin / ySampling) * ySampling
  for (let y = 0; y < height; y++) {
    const v = Math.min(down - 1, Math.max(0, (window.yMin + y - firstY) / ySampling))
    const y0 = Math.floor(v)
    const y1 = Math.min(down - 1, y0 + 1)
    const fv = type === 'uint' ? 0 : v - y0
    for (let x = 0; x < width; x++) {
      const u = Math.min(across - 1, Math.max(0, (window.xMin + x - firstX) / xSampling))
      const x0 = Math.floor(u)
      const x1 = Math.min(across - 1, x0 + 1)
      const fu = type === 'uint' ? 0 : u - x0
      out[y * width + x] =
        (from[y0 * across + x0]! * (1 - fu) + from[y0 * across + x1]! * fu) * (1 - fv) +
        (from[y1 * across + x0]! * (1 - fu) + from[y1 * across + x1]! * fu) * fv
    }
  }
  return type === 'half' ? floatsToHalves(out) : type === 'uint' ? Uint32Array.from(out) : out
}

const damaged = (chunk: Chunk, error: unknown): BadInput =>
  error instanceof BadInput
    ? error
    : new BadInput(`This OpenEXR file is damaged in block ${chunk.index}: ${(error as Error).message}`)
const everything = (): boolean => true

function plans(bytes: Uint8Array, wanted: (name: string) => boolean): Plan[] {
  const { parts, several } = readExrHeaders(bytes)
  const chosen = ({ name: own = '' }: PartHeader, name: string): boolean => wanted(name) || wanted(`${own}.${name}`)
  checkMemory(parts, chosen)
  return parts.map((part, number) => planOf(bytes, part, number, several, name => chosen(part, name)))
}

function done(plan: Plan): ExrPart {
  return { name: plan.part.name, deep: plan.part.deep, tiled: !!plan.part.tiles, image: plan.finish() }
}

/** Every part as a picture of its own; deep ones are flattened, in depth order. Throws BadInput. */
export function readExrParts(bytes: Uint8Array, wanted: (name: string) => boolean = everything): ExrPart[] {
  return plans(bytes, wanted).map(plan => {
    for (const chunk of plan.chunks()) {
      try {
        if (plan.part.deep) plan.putDeep(chunk)
        else plan.put(chunk, decompressBlock(plan.part.compression, chunk.packed, chunk.shape))
      } catch (error) {
        throw damaged(chunk, error)
      }
    }
    return done(plan)
  })
}

/** Reads a file as one picture, or only the channels that `wanted` says yes to. Throws BadInput. */
export function readExr(bytes: Uint8Array, wanted: (name: string) => boolean = everything): ExrImage {
  return together(readExrParts(bytes, wanted))
}

const BLOCKS_AT_ONCE = 8

/** Unpacks a part by what the platform has (three times faster in a browser). */
async function unpacked(plan: Plan): Promise<ExrPart> {
  const chunks = plan.chunks()
  const lane = async (): Promise<void> => {
    for (const chunk of chunks) {
      try {
        if (plan.part.deep) plan.putDeep(chunk)
        else await decompressBlockLater(plan.part.compression, chunk.packed, chunk.shape, raw => plan.put(chunk, raw))
      } catch (error) {
        throw damaged(chunk, error)
      }
    }
  }
  await Promise.all(Array.from({ length: BLOCKS_AT_ONCE }, lane))
  return done(plan)
}

/** The same picture as readExr gives, unpacked by what the platform has. */
export async function readExrLater(
  bytes: Uint8Array,
  wanted: (name: string) => boolean = everything,
): Promise<ExrImage> {
  const parts: ExrPart[] = []
  for (const plan of plans(bytes, wanted)) parts.push(await unpacked(plan))
  return together(parts)
}

/**
 * A file of which only the headers are read: names of channels as readExr gives them; each part is unpacked when it is
 * asked for.
 */
export interface OpenedExr {
  window: Box
  attributes: ExrAttribute[]
  parts: { channels: string[]; read(): Promise<ExrChannel[]> }[]
}
/** whole: pixels of the display window, cut or filled with 0; else those of the data windows together. Throws BadInput. */
export function openExr(bytes: Uint8Array, whole = false): OpenedExr {
  const { parts, several } = readExrHeaders(bytes)
  const window = whole ? parts[0]!.displayWindow : aroundAll(parts.map(part => part.dataWindow))
  const names = namesTogether(parts)
  const areaOf = (box: Box): number => boxWidth(box) * boxHeight(box)
  if (parts.length > 1 || areaOf(window) > areaOf(parts[0]!.dataWindow)) checkTogether(window, parts)
  return {
    window,
    attributes: attributesTogether(parts),
    parts: parts.map((part, number) => ({
      channels: names[number]!,
      read: async () => {
        checkMemory([part], everything)
        const { image } = await unpacked(planOf(bytes, part, number, several, everything))
        return image.channels.map((channel, c) => ({
          ...channel,
          name: names[number]![c]!,
          data: inWindow(channel, image.dataWindow, window),
        }))
      },
    })),
  }
}
