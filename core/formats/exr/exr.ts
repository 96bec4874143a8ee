// OpenEXR, single part, scan lines: none, RLE, ZIPS and ZIP compression; half, float and uint channels in one file.
// Source: "OpenEXR File Layout" and "Technical Introduction to OpenEXR" (openexr.com documentation).
import { BadInput, checkSize } from '../errors'
import { compressBlock, decompressBlock, decompressBlockLater, type Compression } from './block'

export interface Box { xMin: number; yMin: number; xMax: number; yMax: number }
export type ExrType = 'uint' | 'half' | 'float'
export interface ExrChannel {
  name: string
  type: ExrType
  /** Row by row over the data window: codes of halves, floats, or unsigned integers. */
  data: Uint16Array | Float32Array | Uint32Array
  linear: boolean
}
/** An attribute as it stands in the file: kept byte for byte when a file is written again. */
export interface ExrAttribute { name: string; type: string; value: Uint8Array }
export type { Compression }
export interface ExrImage {
  dataWindow: Box
  displayWindow: Box
  compression: Compression
  channels: ExrChannel[]
  /** Everything but channels, compression, windows and lineOrder. */
  attributes: ExrAttribute[]
}

const COMPRESSIONS = ['none', 'rle', 'zips', 'zip', 'piz', 'pxr24', 'b44', 'b44a', 'dwaa', 'dwab'] as const
const TYPES: ExrType[] = ['uint', 'half', 'float']
const BYTES: Record<ExrType, number> = { uint: 4, half: 2, float: 4 }
const LINES: Record<Compression, number> = { none: 1, rle: 1, zips: 1, zip: 16 }
const RESERVED = new Set(['channels', 'compression', 'dataWindow', 'displayWindow', 'lineOrder'])
const MAXIMUM_CHANNELS = 1024
const MAXIMUM_BYTES = 6 * 2 ** 30

export const isExr = (bytes: Uint8Array): boolean => bytes.length >= 8 && bytes[0] === 0x76 && bytes[1] === 0x2f && bytes[2] === 0x31 && bytes[3] === 0x01

export const boxWidth = (box: Box): number => box.xMax - box.xMin + 1
export const boxHeight = (box: Box): number => box.yMax - box.yMin + 1
export const emptyWindow = (width: number, height: number): Box => ({ xMin: 0, yMin: 0, xMax: width - 1, yMax: height - 1 })

export interface ExrHeader {
  version: number
  dataWindow: Box
  displayWindow: Box
  compression: Compression
  decreasing: boolean
  channels: { name: string; type: ExrType; linear: boolean }[]
  attributes: ExrAttribute[]
  /** Where the offset table starts. */
  end: number
}

class Reader {
  at = 8
  private view: DataView
  constructor(readonly bytes: Uint8Array) { this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength) }
  need(count: number): void { if (count < 0 || this.at + count > this.bytes.length) throw new BadInput('This OpenEXR file is cut off in its header.') }
  text(): string {
    const start = this.at
    const end = this.bytes.indexOf(0, start)
    if (end < 0 || end - start > 255) throw new BadInput('This OpenEXR file has a damaged header: a name does not end.')
    this.at = end + 1
    return new TextDecoder().decode(this.bytes.subarray(start, end))
  }
  int(): number { this.need(4); const value = this.view.getInt32(this.at, true); this.at += 4; return value }
}

export function readExrHeader(bytes: Uint8Array): ExrHeader {
  if (!isExr(bytes)) throw new BadInput('This is not an OpenEXR file.')
  const version = new DataView(bytes.buffer, bytes.byteOffset).getUint32(4, true)
  if ((version & 255) !== 2) throw new BadInput(`This OpenEXR file has version ${version & 255}; version 2 is read.`)
  if (version & 0x1000) throw new BadInput('This OpenEXR file has several parts, which are not read yet. Save the part you need as a file of its own.')
  if (version & 0x800) throw new BadInput('This OpenEXR file is deep, which is not read yet. Flatten it first.')
  if (version & 0x200) throw new BadInput('This OpenEXR file is tiled, which is not read yet. Save it as scan lines.')
  const reader = new Reader(bytes)
  const found = new Map<string, ExrAttribute>()
  for (;;) {
    const name = reader.text()
    if (!name) break
    const type = reader.text(), size = reader.int()
    reader.need(size)
    if (found.size > 4096) throw new BadInput('This OpenEXR file has more than 4096 attributes.')
    found.set(name, { name, type, value: new Uint8Array(bytes.subarray(reader.at, reader.at + size)) })
    reader.at += size
  }
  const required = (name: string, size: number): DataView => {
    const attribute = found.get(name)
    if (!attribute || attribute.value.length < size) throw new BadInput(`This OpenEXR file lacks the attribute “${name}”, which every file must have.`)
    return new DataView(attribute.value.buffer)
  }
  const box = (name: string): Box => {
    const view = required(name, 16)
    return { xMin: view.getInt32(0, true), yMin: view.getInt32(4, true), xMax: view.getInt32(8, true), yMax: view.getInt32(12, true) }
  }
  const dataWindow = box('dataWindow'), displayWindow = box('displayWindow')
  checkSize('This OpenEXR file', boxWidth(dataWindow), boxHeight(dataWindow))
  const code = required('compression', 1).getUint8(0)
  const compression = COMPRESSIONS[code]
  if (!compression) throw new BadInput(`This OpenEXR file uses compression number ${code}, which does not exist.`)
  if (!(compression in LINES)) throw new BadInput(`This OpenEXR file is compressed as ${compression.toUpperCase()}, which is not read yet. Save it as ZIP.`)
  required('channels', 1)
  const channels = readChannels(found.get('channels')!.value)
  return {
    version, dataWindow, displayWindow, compression: compression as Compression, decreasing: required('lineOrder', 1).getUint8(0) === 1, channels,
    attributes: [...found.values()].filter(attribute => !RESERVED.has(attribute.name)), end: reader.at,
  }
}

function readChannels(value: Uint8Array): ExrHeader['channels'] {
  const view = new DataView(value.buffer)
  const out: ExrHeader['channels'] = []
  for (let at = 0; at < value.length && value[at] !== 0;) {
    const end = value.indexOf(0, at)
    if (end < 0 || end + 17 > value.length) throw new BadInput('This OpenEXR file has a damaged list of channels.')
    const name = new TextDecoder().decode(value.subarray(at, end))
    const type = TYPES[view.getInt32(end + 1, true)]
    if (!type) throw new BadInput(`The channel “${name}” has a type that does not exist.`)
    if (view.getInt32(end + 9, true) !== 1 || view.getInt32(end + 13, true) !== 1) throw new BadInput(`The channel “${name}” is subsampled, which is not read yet.`)
    out.push({ name, type, linear: view.getUint8(end + 5) === 1 })
    if (out.length > MAXIMUM_CHANNELS) throw new BadInput(`This OpenEXR file has more than ${MAXIMUM_CHANNELS} channels.`)
    at = end + 17
  }
  if (!out.length) throw new BadInput('This OpenEXR file has no channels.')
  return out
}

interface ExrBlock { index: number; y: number; rows: number; packed: Uint8Array; size: number }

/** What is needed to take a file apart: where its blocks are and where their pixels go. Throws BadInput before memory is taken for what cannot be. */
function planned(bytes: Uint8Array, wanted: (name: string) => boolean): { header: ExrHeader; blocks: () => Generator<ExrBlock>; put: (block: ExrBlock, raw: Uint8Array) => void; image: () => ExrImage } {
  const header = readExrHeader(bytes)
  const width = boxWidth(header.dataWindow), height = boxHeight(header.dataWindow)
  const lines = LINES[header.compression]
  const rowBytes = header.channels.reduce((sum, channel) => sum + BYTES[channel.type] * width, 0)
  const count = Math.ceil(height / lines)
  if (header.end + count * 8 > bytes.length) throw new BadInput('This OpenEXR file is cut off: its offset table is not whole.')
  const chosen = header.channels.map(channel => wanted(channel.name))
  const memory = header.channels.reduce((sum, channel, i) => sum + (chosen[i] ? BYTES[channel.type] * width * height : 0), 0)
  if (memory > MAXIMUM_BYTES) throw new BadInput(`This OpenEXR file would take ${Math.round(memory / 2 ** 30)} GiB.`)
  const data = header.channels.map((channel, i) => {
    const values = chosen[i] ? width * height : 0
    return channel.type === 'half' ? new Uint16Array(values) : channel.type === 'float' ? new Float32Array(values) : new Uint32Array(values)
  })
  const targets = data.map(array => new Uint8Array(array.buffer))
  function* blocks(): Generator<ExrBlock> {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    const seen = new Uint8Array(count)
    for (let index = 0; index < count; index++) {
      const offset = Number(view.getBigUint64(header.end + index * 8, true))
      if (offset < header.end || offset + 8 > bytes.length) throw new BadInput(`This OpenEXR file is cut off: block ${index} of ${count} is missing.`)
      const y = view.getInt32(offset, true) - header.dataWindow.yMin, size = view.getInt32(offset + 4, true)
      const place = y / lines
      if (y < 0 || y >= height || y % lines || seen[place]) throw new BadInput(`This OpenEXR file is damaged: block ${index} stands at line ${y}.`)
      if (size < 0 || offset + 8 + size > bytes.length) throw new BadInput(`This OpenEXR file is cut off in block ${index} of ${count}.`)
      seen[place] = 1
      const rows = Math.min(lines, height - y)
      yield { index, y, rows, packed: bytes.subarray(offset + 8, offset + 8 + size), size: rowBytes * rows }
    }
  }
  const put = ({ y, rows }: ExrBlock, raw: Uint8Array): void => {
    let at = 0
    for (let row = 0; row < rows; row++) {
      header.channels.forEach((channel, c) => {
        const length = BYTES[channel.type] * width
        if (chosen[c]) targets[c]!.set(raw.subarray(at, at + length), (y + row) * length)
        at += length
      })
    }
  }
  const image = (): ExrImage => ({
    dataWindow: header.dataWindow, displayWindow: header.displayWindow, compression: header.compression, attributes: header.attributes,
    channels: header.channels.map((channel, i) => ({ ...channel, data: data[i]! })).filter((_, i) => chosen[i]),
  })
  return { header, blocks, put, image }
}

const damaged = (block: ExrBlock, error: unknown): BadInput => new BadInput(`This OpenEXR file is damaged in block ${block.index}: ${(error as Error).message}`)
const everything = (): boolean => true

/** Reads a file, or only the channels that `wanted` says yes to. Throws BadInput. */
export function readExr(bytes: Uint8Array, wanted: (name: string) => boolean = everything): ExrImage {
  const plan = planned(bytes, wanted)
  for (const block of plan.blocks()) {
    let raw: Uint8Array
    try { raw = decompressBlock(plan.header.compression, block.packed, block.size) } catch (error) { throw damaged(block, error) }
    plan.put(block, raw)
  }
  return plan.image()
}

const BLOCKS_AT_ONCE = 8

/** The same picture, unpacked by what the platform has (three times faster in a browser). */
export async function readExrLater(bytes: Uint8Array, wanted: (name: string) => boolean = everything): Promise<ExrImage> {
  const plan = planned(bytes, wanted), blocks = plan.blocks()
  const lane = async (): Promise<void> => {
    for (const block of blocks) {
      try { await decompressBlockLater(plan.header.compression, block.packed, block.size, raw => plan.put(block, raw)) } catch (error) { throw damaged(block, error) }
    }
  }
  await Promise.all(Array.from({ length: BLOCKS_AT_ONCE }, lane))
  return plan.image()
}

/** Bytes of a file. Channels are written in the order of their names, as the format demands. */
export function writeExr(image: ExrImage): Uint8Array {
  const width = boxWidth(image.dataWindow), height = boxHeight(image.dataWindow)
  checkSize('The picture', width, height)
  const channels = [...image.channels].sort((a, b) => a.name < b.name ? -1 : a.name > b.name ? 1 : 0)
  for (const [i, channel] of channels.entries()) {
    if (channel.data.length !== width * height) throw new BadInput(`The channel “${channel.name}” has ${channel.data.length} values for ${width} x ${height} pixels.`)
    if (channels[i + 1]?.name === channel.name) throw new BadInput(`Two channels are named “${channel.name}”.`)
  }
  const lines = LINES[image.compression], blocks = Math.ceil(height / lines)
  const sources = channels.map(channel => new Uint8Array(channel.data.buffer, channel.data.byteOffset, channel.data.byteLength))
  const rowBytes = channels.reduce((sum, channel) => sum + BYTES[channel.type] * width, 0)
  const header = writeHeader(image, channels)
  const parts: Uint8Array[] = [header]
  const table = new Uint8Array(blocks * 8), tableView = new DataView(table.buffer)
  parts.push(table)
  let offset = header.length + table.length
  for (let block = 0; block < blocks; block++) {
    const y = block * lines, rows = Math.min(lines, height - y)
    const raw = new Uint8Array(rowBytes * rows)
    let at = 0
    for (let row = 0; row < rows; row++) {
      channels.forEach((channel, c) => {
        const count = BYTES[channel.type] * width
        raw.set(sources[c]!.subarray((y + row) * count, (y + row + 1) * count), at)
        at += count
      })
    }
    const packed = compressBlock(image.compression, raw)
    const head = new Uint8Array(8), headView = new DataView(head.buffer)
    headView.setInt32(0, image.dataWindow.yMin + y, true)
    headView.setInt32(4, packed.length, true)
    tableView.setBigUint64(block * 8, BigInt(offset), true)
    parts.push(head, packed)
    offset += 8 + packed.length
  }
  return joined(parts)
}

function writeHeader(image: ExrImage, channels: ExrChannel[]): Uint8Array {
  const parts: Uint8Array[] = [Uint8Array.of(0x76, 0x2f, 0x31, 0x01)]
  const longNames = [...channels, ...image.attributes].some(named => utf8(named.name).length > 31)
  parts.push(ints(2 | (longNames ? 0x400 : 0)))
  const put = (name: string, type: string, value: Uint8Array): void => { parts.push(text(name), text(type), ints(value.length), value) }
  put('channels', 'chlist', joined([...channels.flatMap(channel => [text(channel.name), ints(TYPES.indexOf(channel.type)), Uint8Array.of(channel.linear ? 1 : 0, 0, 0, 0), ints(1, 1)]), Uint8Array.of(0)]))
  put('compression', 'compression', Uint8Array.of(COMPRESSIONS.indexOf(image.compression)))
  for (const [name, box] of [['dataWindow', image.dataWindow], ['displayWindow', image.displayWindow]] as const) put(name, 'box2i', ints(box.xMin, box.yMin, box.xMax, box.yMax))
  put('lineOrder', 'lineOrder', Uint8Array.of(0))
  const given = new Set(image.attributes.map(attribute => attribute.name))
  const defaults: ExrAttribute[] = [floatAttribute('pixelAspectRatio', 1), { name: 'screenWindowCenter', type: 'v2f', value: new Uint8Array(8) }, floatAttribute('screenWindowWidth', 1)]
  for (const attribute of [...image.attributes.filter(attribute => !RESERVED.has(attribute.name)), ...defaults.filter(attribute => !given.has(attribute.name))]) put(attribute.name, attribute.type, attribute.value)
  parts.push(Uint8Array.of(0))
  return joined(parts)
}

const utf8 = (value: string): Uint8Array => new TextEncoder().encode(value)
const text = (value: string): Uint8Array => joined([utf8(value), Uint8Array.of(0)])
const ints = (...values: number[]): Uint8Array => new Uint8Array(Int32Array.from(values).buffer)

export const stringAttribute = (name: string, value: string): ExrAttribute => ({ name, type: 'string', value: utf8(value) })
export const floatAttribute = (name: string, value: number): ExrAttribute => ({ name, type: 'float', value: new Uint8Array(Float32Array.of(value).buffer) })

/** The value of an attribute as JavaScript sees it; bytes in base 16 for types that are not understood. */
export function attributeValue(attribute: ExrAttribute): unknown {
  const { value, type } = attribute
  const view = new DataView(value.buffer, value.byteOffset, value.byteLength)
  const many = (count: number, read: (at: number) => number): number[] => Array.from({ length: count }, (_, i) => read(i * 4))
  try {
    switch (type) {
      case 'string': return new TextDecoder().decode(value)
      case 'int': return view.getInt32(0, true)
      case 'float': return view.getFloat32(0, true)
      case 'double': return view.getFloat64(0, true)
      case 'v2f': return many(2, at => view.getFloat32(at, true))
      case 'v3f': return many(3, at => view.getFloat32(at, true))
      case 'v2i': return many(2, at => view.getInt32(at, true))
      case 'box2i': return many(4, at => view.getInt32(at, true))
      case 'm44f': return many(16, at => view.getFloat32(at, true))
      case 'chromaticities': return many(8, at => view.getFloat32(at, true))
      case 'rational': return [view.getInt32(0, true), view.getUint32(4, true)]
      case 'timecode': return many(2, at => view.getUint32(at, true))
    }
  } catch { /* too short for its type: shown as bytes */ }
  return Array.from(value, byte => byte.toString(16).padStart(2, '0')).join('')
}

export function joined(parts: Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0))
  let at = 0
  for (const part of parts) { out.set(part, at); at += part.length }
  return out
}
