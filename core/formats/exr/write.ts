// OpenEXR files written: one part or several, scan lines or tiles; none, RLE, ZIPS, ZIP or PIZ.
import { joined } from '../bytes'
import { BadInput, checkSize } from '../errors'
import { floatAttribute, ints, stringAttribute, text, utf8, type ExrAttribute } from './attributes'
import { COMPRESSIONS, compressBlock, LINES, WRITTEN, type Compression, type WrittenCompression } from './block'
import { boxHeight, boxWidth, RESERVED, TYPES } from './header'
import { BYTES, type BlockChannel } from './planes'
import type { ExrChannel, ExrImage } from './together'

export interface ExrWriteOptions {
  /** Side of tiles in pixels; scan lines without. */
  tile?: number
}
export interface ExrPartToWrite {
  name: string
  image: ExrImage
  options?: ExrWriteOptions
}

/** What a file read with another compression is written with: without loss where that is known to fit. */
export const writable = (compression: Compression): WrittenCompression =>
  (WRITTEN as readonly string[]).includes(compression) ? (compression as WrittenCompression) : 'zip'

/** Bytes of a file. Channels are written in the order of their names, as the format demands. */
export function writeExr(image: ExrImage, options: ExrWriteOptions = {}): Uint8Array {
  return file([{ name: '', image, options }], false)
}

/** A file of several parts, each under its name. */
export function writeExrParts(parts: readonly ExrPartToWrite[]): Uint8Array {
  if (!parts.length) throw new BadInput('A file needs a part at least.')
  const names = parts.map(part => part.name)
  if (names.some(name => !name) || new Set(names).size !== names.length)
    throw new BadInput('Each part of a file needs a name of its own.')
  return file(parts, true)
}

interface Prepared {
  header: Uint8Array
  chunks: Uint8Array[]
}

function file(parts: readonly ExrPartToWrite[], several: boolean): Uint8Array {
  const prepared = parts.map((part, number) => prepare(part, number, several))
  const out: Uint8Array[] = []
  const long = parts.some(({ image }) =>
    [...image.channels, ...image.attributes].some(named => utf8(named.name).length > 31),
  )
  out.push(
    Uint8Array.of(0x76, 0x2f, 0x31, 0x01),
    ints(2 | (long ? 0x400 : 0) | (several ? 0x1000 : parts[0]!.options?.tile ? 0x200 : 0)),
    ...prepared.map(part => part.header),
  )
  if (several) out.push(Uint8Array.of(0))
  let offset =
    out.reduce((sum, piece) => sum + piece.length, 0) + prepared.reduce((sum, part) => sum + part.chunks.length * 8, 0)
  for (const { chunks } of prepared) {
    const table = new Uint8Array(chunks.length * 8)
    const view = new DataView(table.buffer)
    chunks.forEach((chunk, i) => {
      view.setBigUint64(i * 8, BigInt(offset), true)
      offset += chunk.length
    })
    out.push(table)
  }
  for (const { chunks } of prepared) out.push(...chunks)
  return joined(out)
}

function prepare({ name, image, options = {} }: ExrPartToWrite, number: number, several: boolean): Prepared {
  const width = boxWidth(image.dataWindow)
  const height = boxHeight(image.dataWindow)
  const { tile } = options
  checkSize('The picture', width, height)
  if (tile !== undefined && !(Number.isInteger(tile) && tile >= 4 && tile <= 4096))
    throw new BadInput(`Tiles are 4 to 4096 pixels wide, not ${tile}.`)
  const channels = [...image.channels].sort((a, b) => (a.name < b.name ? -1 : a.name > b.name ? 1 : 0))
  for (const [i, channel] of channels.entries()) {
    if (channel.data.length !== width * height)
      throw new BadInput(
        `The channel “${channel.name}” has ${channel.data.length} values for ${width} x ${height} pixels.`,
      )
    if (channels[i + 1]?.name === channel.name) throw new BadInput(`Two channels are named “${channel.name}”.`)
  }
  const compression = writable(image.compression)
  const chunks: Uint8Array[] = []
  const lines = tile ?? LINES[compression]
  const wide = tile ?? width
  const sources = channels.map(
    channel => new Uint8Array(channel.data.buffer, channel.data.byteOffset, channel.data.byteLength),
  )
  for (let y = 0; y < height; y += lines) {
    for (let x = 0; x < width; x += wide) {
      const rows = Math.min(lines, height - y)
      const across = Math.min(wide, width - x)
      const raw = new Uint8Array(channels.reduce((sum, { type }) => sum + BYTES[type] * across * rows, 0))
      let at = 0
      for (let row = 0; row < rows; row++) {
        channels.forEach(({ type }, c) => {
          const size = BYTES[type]
          const from = ((y + row) * width + x) * size
          raw.set(sources[c]!.subarray(from, from + across * size), at)
          at += across * size
        })
      }
      const shapes = channels.map(({ name: channelName, type, linear }): BlockChannel => ({
        name: channelName,
        type,
        linear,
        across,
        down: rows,
        has: () => true,
      }))
      const packed = compressBlock(compression, raw, shapes, rows)
      chunks.push(
        joined([
          ...(several ? [ints(number)] : []),
          tile ? ints(x / tile, y / tile, 0, 0) : ints(image.dataWindow.yMin + y),
          ints(packed.length),
          packed,
        ]),
      )
    }
  }
  return { header: header(name, image, channels, compression, tile, several ? chunks.length : undefined), chunks }
}

function header(
  name: string,
  image: ExrImage,
  channels: readonly ExrChannel[],
  compression: WrittenCompression,
  tile: number | undefined,
  chunkCount: number | undefined,
): Uint8Array {
  const parts: Uint8Array[] = []
  const put = ({ name: own, type, value }: ExrAttribute): void => {
    parts.push(text(own), text(type), ints(value.length), value)
  }
  put({
    name: 'channels',
    type: 'chlist',
    value: joined([
      ...channels.flatMap(channel => [
        text(channel.name),
        ints(TYPES.indexOf(channel.type)),
        Uint8Array.of(channel.linear ? 1 : 0, 0, 0, 0),
        ints(1, 1),
      ]),
      Uint8Array.of(0),
    ]),
  })
  put({ name: 'compression', type: 'compression', value: Uint8Array.of(COMPRESSIONS.indexOf(compression)) })
  for (const [own, box] of [
    ['dataWindow', image.dataWindow],
    ['displayWindow', image.displayWindow],
  ] as const)
    put({ name: own, type: 'box2i', value: ints(box.xMin, box.yMin, box.xMax, box.yMax) })
  put({ name: 'lineOrder', type: 'lineOrder', value: Uint8Array.of(0) })
  if (tile) put({ name: 'tiles', type: 'tiledesc', value: joined([ints(tile, tile), Uint8Array.of(0)]) })
  if (chunkCount !== undefined) {
    put(stringAttribute('name', name))
    put(stringAttribute('type', tile ? 'tiledimage' : 'scanlineimage'))
    put({ name: 'chunkCount', type: 'int', value: ints(chunkCount) })
  }
  const given = new Set(image.attributes.map(attribute => attribute.name))
  const defaults: ExrAttribute[] = [
    floatAttribute('pixelAspectRatio', 1),
    { name: 'screenWindowCenter', type: 'v2f', value: new Uint8Array(8) },
    floatAttribute('screenWindowWidth', 1),
  ]
  for (const attribute of [
    ...image.attributes.filter(attribute => !RESERVED.has(attribute.name)),
    ...defaults.filter(attribute => !given.has(attribute.name)),
  ])
    put(attribute)
  parts.push(Uint8Array.of(0))
  return joined(parts)
}
