// Deep OpenEXR: any number of samples a pixel, each at its depth; flattened by laying them over one another from the
// nearest on.
// Source: "OpenEXR File Layout" and "Interpreting OpenEXR Deep Pixels" (openexr.com documentation). Samples that have
// thickness (ZBack) are not cut where they overlap.
import { BadInput } from '../errors'
import { decompressBlock, type BlockShape, type Compression } from './block'
import { halfToFloat } from './half'
import type { HeaderChannel } from './header'
import { BYTES } from './planes'

/** One line of pixels: how many samples each has, and each channel's values of all of them, pixel after pixel. */
export interface DeepRow {
  counts: Int32Array
  values: Float64Array[]
}
/** A copy in memory of its own (Node's buffers share theirs, slices too). */
const copied = (bytes: Uint8Array): Uint8Array => new Uint8Array(bytes)
const MAXIMUM_SAMPLE_BYTES = 2 ** 28
/** Samples of one pixel, which are put in order. */
const MAXIMUM_SAMPLES = 65536

export function readDeepChunk(
  bytes: Uint8Array,
  at: number,
  compression: Compression,
  channels: readonly HeaderChannel[],
  width: number,
  rows: number,
  use: (row: DeepRow, line: number) => void,
): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const cut = (): never => {
    throw new Error('it is cut off.')
  }
  if (at + 24 > bytes.length) cut()
  const tableSize = Number(view.getBigUint64(at, true))
  const dataSize = Number(view.getBigUint64(at + 8, true))
  const size = Number(view.getBigUint64(at + 16, true))
  if (tableSize > bytes.length || dataSize > bytes.length || at + 24 + tableSize + dataSize > bytes.length) cut()
  if (size > MAXIMUM_SAMPLE_BYTES)
    throw new BadInput(`A block of this OpenEXR file says that its samples take ${Math.round(size / 2 ** 20)} MiB.`)
  const plain = (length: number): BlockShape => ({ channels: [], rows, size: length })
  if (!['none', 'rle', 'zips', 'zip'].includes(compression))
    throw new Error(`deep pixels cannot be compressed as ${compression.toUpperCase()}.`)
  const table = copied(
    decompressBlock(compression, bytes.subarray(at + 24, at + 24 + tableSize), plain(width * rows * 4)),
  )
  const tableView = new DataView(table.buffer)
  const perSample = channels.reduce((sum, { type }) => sum + BYTES[type], 0)
  const lines: Int32Array[] = []
  let total = 0
  for (let line = 0; line < rows; line++) {
    // Counts run on from the left of each line
    const counts = new Int32Array(width)
    let before = 0
    for (let x = 0; x < width; x++) {
      const sum = tableView.getInt32((line * width + x) * 4, true)
      if (sum < before) throw new Error('its counts of samples fall.')
      counts[x] = sum - before
      if (counts[x]! > MAXIMUM_SAMPLES)
        throw new BadInput(
          `A pixel of this OpenEXR file has ${counts[x]} samples; at most ${MAXIMUM_SAMPLES} are read.`,
        )
      before = sum
    }
    total += before
    lines.push(counts)
  }
  if (total * perSample !== size) throw new Error(`it has ${total} samples in ${size} bytes.`)
  const raw = copied(
    decompressBlock(compression, bytes.subarray(at + 24 + tableSize, at + 24 + tableSize + dataSize), plain(size)),
  )
  const rawView = new DataView(raw.buffer)
  let from = 0
  lines.forEach((counts, line) => {
    const count = counts.reduce((sum, value) => sum + value, 0)
    const values = channels.map(({ type }) => {
      const out = new Float64Array(count)
      for (let i = 0; i < count; i++, from += BYTES[type])
        out[i] =
          type === 'half'
            ? halfToFloat(rawView.getUint16(from, true))
            : type === 'float'
              ? rawView.getFloat32(from, true)
              : rawView.getUint32(from, true)
      return out
    })
    use({ counts, values }, line)
  })
}

/**
 * Lays the samples of each pixel over one another. Depths and whole numbers are the nearest sample's, colours are added
 * by what the nearer ones let through.
 */
export function flattened(
  { counts, values }: DeepRow,
  channels: readonly HeaderChannel[],
  put: (channel: number, x: number, value: number) => void,
): void {
  const find = (name: string): number => channels.findIndex(channel => channel.name === name)
  const depth = find('Z')
  const alpha = find('A')
  const first = channels.map(({ name, type }) => type === 'uint' || /(^|\.)Z(Back)?$/.test(name) || alpha < 0)
  let start = 0
  for (let x = 0; x < counts.length; x++) {
    const order = Array.from({ length: counts[x]! }, (_, i) => start + i)
    if (depth >= 0) order.sort((a, b) => values[depth]![a]! - values[depth]![b]!)
    start += counts[x]!
    if (!order.length) continue
    for (let c = 0; c < channels.length; c++) {
      if (first[c]) {
        put(c, x, values[c]![order[0]!]!)
        continue
      }
      let sum = 0
      let through = 1
      for (const sample of order) {
        sum += values[c]![sample]! * through
        through *= 1 - Math.min(1, Math.max(0, values[alpha]![sample]!))
        if (through <= 0) break
      }
      put(c, x, sum)
    }
  }
}
