// PIZ: numbers of 16 bits renumbered by which occur, a Haar-like wavelet over each channel, Huffman codes.
// Source: the OpenEXR library's description of its format in ImfPizCompressor and ImfWav (public file format; read from
// memory).
import { huffmanDecode, huffmanEncode } from './huffman'
import { BYTES, planesToRows, rowsToPlanes, type BlockChannel } from './planes'

const BITMAP = 8192

/** One step back of the wavelet on numbers below 2^14, and on any (modulo 2^16). */
function back14(low: number, high: number, out: Uint16Array, a: number, b: number): void {
  const l = (low << 16) >> 16
  const h = (high << 16) >> 16
  const first = l + (h & 1) + (h >> 1)
  out[a] = first
  out[b] = first - h
}
function back16(low: number, high: number, out: Uint16Array, a: number, b: number): void {
  const second = (low - (high >> 1)) & 0xffff
  out[b] = second
  out[a] = (high + second - 0x8000) & 0xffff
}
function on14(first: number, second: number, out: Uint16Array, l: number, h: number): void {
  const a = (first << 16) >> 16
  const b = (second << 16) >> 16
  out[l] = (a + b) >> 1
  out[h] = a - b
}
function on16(first: number, second: number, out: Uint16Array, l: number, h: number): void {
  const a = (first + 0x8000) & 0xffff
  const difference = a - second
  let mean = (a + second) >> 1
  if (difference < 0) mean = (mean + 0x8000) & 0xffff
  out[l] = mean
  out[h] = difference & 0xffff
}

/** The wavelet of one plane in place: across values `stepX` apart, down lines `stepY` apart. */
function wavelet(
  data: Uint16Array,
  start: number,
  across: number,
  stepX: number,
  down: number,
  stepY: number,
  largest: number,
  forward: boolean,
): void {
  const step = forward ? (largest < 1 << 14 ? on14 : on16) : largest < 1 << 14 ? back14 : back16
  const small = Math.min(across, down)
  const level = (p: number): void => {
    const p2 = p * 2
    const oy1 = stepY * p
    const ox1 = stepX * p
    const ox2 = stepX * p2
    let y = 0
    for (; y + p2 <= down; y += p2) {
      let x = 0
      let at = start + y * stepY
      for (; x + p2 <= across; x += p2, at += ox2) {
        const right = at + ox1
        const below = at + oy1
        const both = below + ox1
        if (forward) {
          step(data[at]!, data[right]!, data, at, right)
          step(data[below]!, data[both]!, data, below, both)
          step(data[at]!, data[below]!, data, at, below)
          step(data[right]!, data[both]!, data, right, both)
        } else {
          step(data[at]!, data[below]!, data, at, below)
          step(data[right]!, data[both]!, data, right, both)
          step(data[at]!, data[right]!, data, at, right)
          step(data[below]!, data[both]!, data, below, both)
        }
      }
      if (across & p) step(data[at]!, data[at + oy1]!, data, at, at + oy1)
    }
    if (down & p)
      for (let x = 0, at = start + y * stepY; x + p2 <= across; x += p2, at += ox2)
        step(data[at]!, data[at + ox1]!, data, at, at + ox1)
  }
  if (forward) {
    for (let p = 1; p * 2 <= small; p *= 2) level(p)
    return
  }
  let p = 1
  while (p <= small) p *= 2
  for (p /= 4; p >= 1; p /= 2) level(p)
}

function eachPlane(
  channels: readonly BlockChannel[],
  visit: (start: number, words: number, across: number, down: number) => void,
): void {
  let at = 0
  for (const { type, across, down } of channels) {
    const words = BYTES[type] / 2
    for (let word = 0; word < words; word++) visit(at + word, words, across, down)
    at += words * across * down
  }
}

export function pizDecode(
  packed: Uint8Array,
  channels: readonly BlockChannel[],
  rows: number,
  size: number,
): Uint8Array {
  if (packed.length < 8) throw new Error('it is cut off.')
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength)
  const low = view.getUint16(0, true)
  const high = view.getUint16(2, true)
  const bitmap = new Uint8Array(BITMAP)
  let at = 4
  if (low <= high) {
    if (high >= BITMAP || at + high - low + 5 > packed.length) throw new Error('its list of numbers is damaged.')
    bitmap.set(packed.subarray(at, at + high - low + 1), low)
    at += high - low + 1
  }
  const numbers = new Uint16Array(65536)
  let count = 0
  for (let value = 0; value < 65536; value++)
    if (value === 0 || bitmap[value >> 3]! & (1 << (value & 7))) numbers[count++] = value
  const length = view.getInt32(at, true)
  at += 4
  if (length < 0 || at + length > packed.length) throw new Error('it is cut off.')
  const data = huffmanDecode(packed.subarray(at, at + length), size / 2)
  eachPlane(channels, (start, words, across, down) =>
    wavelet(data, start, across, words, down, across * words, count - 1, false),
  )
  for (let i = 0; i < data.length; i++) data[i] = numbers[data[i]!]!
  return planesToRows(new Uint8Array(data.buffer), channels, rows)
}

export function pizEncode(raw: Uint8Array, channels: readonly BlockChannel[], rows: number): Uint8Array {
  const planes = rowsToPlanes(raw, channels, rows)
  const data = new Uint16Array(planes.buffer, 0, planes.length / 2)
  const bitmap = new Uint8Array(BITMAP)
  for (let i = 0; i < data.length; i++) bitmap[data[i]! >> 3]! |= 1 << (data[i]! & 7)
  // Zero is always there and not listed
  bitmap[0]! &= ~1
  let low = 0
  let high = BITMAP - 1
  while (low < BITMAP && !bitmap[low]) low++
  while (high >= 0 && !bitmap[high]) high--
  if (low === BITMAP) {
    low = BITMAP - 1
    high = 0
  }
  const numbers = new Uint16Array(65536)
  let count = 0
  for (let value = 0; value < 65536; value++)
    if (value === 0 || bitmap[value >> 3]! & (1 << (value & 7))) numbers[value] = count++
  for (let i = 0; i < data.length; i++) data[i] = numbers[data[i]!]!
  eachPlane(channels, (start, words, across, down) =>
    wavelet(data, start, across, words, down, across * words, count - 1, true),
  )
  const coded = huffmanEncode(data)
  const listed = low <= high ? high - low + 1 : 0
  const out = new Uint8Array(8 + listed + coded.length)
  const view = new DataView(out.buffer)
  view.setUint16(0, low, true)
  view.setUint16(2, high, true)
  if (listed) out.set(bitmap.subarray(low, high + 1), 4)
  view.setInt32(4 + listed, coded.length, true)
  out.set(coded, 8 + listed)
  return out
}
