// Headers of OpenEXR files: one part or several, scan lines or tiles, flat or deep. Source: "OpenEXR File Layout"
// (openexr.com documentation).
import { BadInput, checkSize } from '../errors'
import type { ExrAttribute } from './attributes'
import { COMPRESSIONS, LINES, type Compression } from './block'
import type { ExrType } from './planes'

export interface Box {
  xMin: number
  yMin: number
  xMax: number
  yMax: number
}
export const boxWidth = (box: Box): number => box.xMax - box.xMin + 1
export const boxHeight = (box: Box): number => box.yMax - box.yMin + 1
export const emptyWindow = (width: number, height: number): Box => ({
  xMin: 0,
  yMin: 0,
  xMax: width - 1,
  yMax: height - 1,
})

export interface HeaderChannel {
  name: string
  type: ExrType
  linear: boolean
  /** One value for so many pixels across and down. */
  xSampling: number
  ySampling: number
}
export interface PartHeader {
  /** Of a part of several. */
  name?: string
  deep: boolean
  /** Size of tiles; none for scan lines. */
  tiles?: { width: number; height: number }
  dataWindow: Box
  displayWindow: Box
  compression: Compression
  channels: HeaderChannel[]
  /** Everything but what is said above, as it stands. */
  attributes: ExrAttribute[]
  /** Entries of its offset table; of a tiled part those of smaller levels too. */
  chunks: number
  /** Where its offset table begins. */
  table: number
}
export interface ExrHeaders {
  version: number
  several: boolean
  parts: PartHeader[]
}

export const TYPES: ExrType[] = ['uint', 'half', 'float']
export const RESERVED = new Set([
  'channels',
  'compression',
  'dataWindow',
  'displayWindow',
  'lineOrder',
  'tiles',
  'type',
  'chunkCount',
  'name',
  'version',
  'maxSamplesPerPixel',
])
export const MAXIMUM_CHANNELS = 1024
const MAXIMUM_PARTS = 1024
const MAXIMUM_CHUNKS = 1 << 24

export const isExr = (bytes: Uint8Array): boolean =>
  bytes.length >= 8 && bytes[0] === 0x76 && bytes[1] === 0x2f && bytes[2] === 0x31 && bytes[3] === 0x01

class Reader {
  at = 8
  private view: DataView
  constructor(readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }
  need(count: number): void {
    if (count < 0 || this.at + count > this.bytes.length)
      throw new BadInput('This OpenEXR file is cut off in its header.')
  }
  text(): string {
    const start = this.at
    const end = this.bytes.indexOf(0, start)
    if (end < 0 || end - start > 255) throw new BadInput('This OpenEXR file has a damaged header: a name does not end.')
    this.at = end + 1
    return new TextDecoder().decode(this.bytes.subarray(start, end))
  }
  int(): number {
    this.need(4)
    const value = this.view.getInt32(this.at, true)
    this.at += 4
    return value
  }
}

function readAttributes(reader: Reader): Map<string, ExrAttribute> {
  const found = new Map<string, ExrAttribute>()
  for (;;) {
    const name = reader.text()
    if (!name) return found
    const type = reader.text()
    const size = reader.int()
    reader.need(size)
    if (found.size > 4096) throw new BadInput('This OpenEXR file has more than 4096 attributes.')
    found.set(name, { name, type, value: new Uint8Array(reader.bytes.subarray(reader.at, reader.at + size)) })
    reader.at += size
  }
}

/** All headers. head: only the first bytes of a file are there. Throws BadInput with what is wrong. */
export function readExrHeaders(bytes: Uint8Array, head = false): ExrHeaders {
  if (!isExr(bytes)) throw new BadInput('This is not an OpenEXR file.')
  const version = new DataView(bytes.buffer, bytes.byteOffset).getUint32(4, true)
  if ((version & 255) !== 2) throw new BadInput(`This OpenEXR file has version ${version & 255}; version 2 is read.`)
  const several = (version & 0x1000) !== 0
  const reader = new Reader(bytes)
  const parts: PartHeader[] = []
  do {
    if (parts.length >= MAXIMUM_PARTS) throw new BadInput(`This OpenEXR file has more than ${MAXIMUM_PARTS} parts.`)
    parts.push(partOf(readAttributes(reader), version, several))
    if (several) reader.need(1)
  } while (several && bytes[reader.at] !== 0)
  if (several) reader.at++
  // Offset tables follow the headers, one a part
  for (const part of parts) {
    part.table = reader.at
    reader.at += part.chunks * 8
    if (!head && reader.at > bytes.length)
      throw new BadInput('This OpenEXR file is cut off: its offset table is not whole.')
  }
  return { version, several, parts }
}

function partOf(found: Map<string, ExrAttribute>, version: number, several: boolean): PartHeader {
  const required = (name: string, size: number): DataView => {
    const attribute = found.get(name)
    if (!attribute || attribute.value.length < size)
      throw new BadInput(`This OpenEXR file lacks the attribute “${name}”, which every file must have.`)
    return new DataView(attribute.value.buffer)
  }
  const box = (name: string): Box => {
    const view = required(name, 16)
    return {
      xMin: view.getInt32(0, true),
      yMin: view.getInt32(4, true),
      xMax: view.getInt32(8, true),
      yMax: view.getInt32(12, true),
    }
  }
  const dataWindow = box('dataWindow')
  const displayWindow = box('displayWindow')
  const text = (name: string): string | undefined => {
    const attribute = found.get(name)
    return attribute && new TextDecoder().decode(attribute.value)
  }
  checkSize('This OpenEXR file', boxWidth(dataWindow), boxHeight(dataWindow))
  checkSize('The frame of this OpenEXR file', boxWidth(displayWindow), boxHeight(displayWindow))
  const code = required('compression', 1).getUint8(0)
  const compression = COMPRESSIONS[code]
  if (!compression) throw new BadInput(`This OpenEXR file uses compression number ${code}, which does not exist.`)
  required('channels', 1)
  required('lineOrder', 1)
  const channels = readChannels(found.get('channels')!.value)
  const type = text('type')
  if (several && !type) throw new BadInput('A part of this OpenEXR file does not say what it is.')
  if (type && !['scanlineimage', 'tiledimage', 'deepscanline', 'deeptile'].includes(type))
    throw new BadInput(`This OpenEXR file has a part of the kind “${type}”, which does not exist.`)
  const deep = type ? type.startsWith('deep') : (version & 0x800) !== 0
  const tiled = type ? type === 'tiledimage' || type === 'deeptile' : (version & 0x200) !== 0
  let tiles: PartHeader['tiles']
  let chunks = Math.ceil(boxHeight(dataWindow) / (deep ? 1 : LINES[compression]))
  // Deep blocks of ZIP hold 16 lines as flat ones do
  if (deep && !tiled) chunks = Math.ceil(boxHeight(dataWindow) / LINES[compression])
  if (tiled) {
    const view = required('tiles', 9)
    const width = view.getUint32(0, true)
    const height = view.getUint32(4, true)
    if (width < 1 || height < 1 || width > 1 << 20 || height > 1 << 20)
      throw new BadInput(`This OpenEXR file has tiles of ${width} x ${height} pixels.`)
    tiles = { width, height }
    chunks = tileCount(dataWindow, tiles, view.getUint8(8))
  }
  const said = found.get('chunkCount')
  if (several) {
    if (!said || said.value.length < 4)
      throw new BadInput('A part of this OpenEXR file does not say how many blocks it has.')
    const count = new DataView(said.value.buffer).getInt32(0, true)
    if (
      count <
        (tiles
          ? Math.ceil(boxWidth(dataWindow) / tiles.width) * Math.ceil(boxHeight(dataWindow) / tiles.height)
          : chunks) ||
      count > MAXIMUM_CHUNKS
    )
      throw new BadInput(`A part of this OpenEXR file says that it has ${count} blocks.`)
    chunks = count
  }
  if (chunks > MAXIMUM_CHUNKS) throw new BadInput('This OpenEXR file has too many blocks.')
  return {
    name: text('name'),
    deep,
    tiles,
    dataWindow,
    displayWindow,
    compression,
    channels,
    attributes: [...found.values()].filter(attribute => !RESERVED.has(attribute.name)),
    chunks,
    table: 0,
  }
}

/** Tiles of all levels. mode: low half 0 one level, 1 halved, 2 halved each way; high half: 1 rounds sizes up. */
function tileCount(window: Box, tiles: { width: number; height: number }, mode: number): number {
  const up = mode >> 4 === 1
  const sizes = (size: number): number[] => {
    const out = [size]
    while (out.at(-1)! > 1) out.push(Math.max(1, up ? Math.ceil(out.at(-1)! / 2) : Math.floor(out.at(-1)! / 2)))
    return out
  }
  const width = boxWidth(window)
  const height = boxHeight(window)
  const count = (w: number, h: number): number => Math.ceil(w / tiles.width) * Math.ceil(h / tiles.height)
  const kind = mode & 15
  if (kind === 0) return count(width, height)
  const across = sizes(width)
  const down = sizes(height)
  if (kind === 1) {
    let sum = 0
    for (let level = 0; level < Math.max(across.length, down.length); level++)
      sum += count(across[level] ?? 1, down[level] ?? 1)
    return sum
  }
  if (kind === 2) return across.reduce((sum, w) => sum + down.reduce((inner, h) => inner + count(w, h), 0), 0)
  throw new BadInput(`This OpenEXR file has levels of kind ${kind}, which does not exist.`)
}

function readChannels(value: Uint8Array): HeaderChannel[] {
  const view = new DataView(value.buffer)
  const out: HeaderChannel[] = []
  const names = new Set<string>()
  for (let at = 0; at < value.length && value[at] !== 0;) {
    const end = value.indexOf(0, at)
    if (end < 0 || end + 17 > value.length) throw new BadInput('This OpenEXR file has a damaged list of channels.')
    const name = new TextDecoder().decode(value.subarray(at, end))
    const type = TYPES[view.getInt32(end + 1, true)]
    if (!type) throw new BadInput(`The channel “${name}” has a type that does not exist.`)
    if (names.has(name)) throw new BadInput(`Two channels of this OpenEXR file are named “${name}”.`)
    names.add(name)
    const xSampling = view.getInt32(end + 9, true)
    const ySampling = view.getInt32(end + 13, true)
    if (xSampling < 1 || ySampling < 1 || xSampling > 4096 || ySampling > 4096)
      throw new BadInput(`The channel “${name}” has one value for ${xSampling} x ${ySampling} pixels.`)
    out.push({ name, type, linear: view.getUint8(end + 5) === 1, xSampling, ySampling })
    if (out.length > MAXIMUM_CHANNELS)
      throw new BadInput(`This OpenEXR file has more than ${MAXIMUM_CHANNELS} channels.`)
    at = end + 17
  }
  if (!out.length) throw new BadInput('This OpenEXR file has no channels.')
  return out
}
