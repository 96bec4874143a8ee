// B44 and B44A: halves in tiles of 4 x 4, each in 14 bytes (flat ones in 3 with B44A); other types as they stand.
// Source: the OpenEXR library's description of its format in ImfB44Compressor (public file format; read from memory).
import { floatsToHalves, halvesToFloats } from './half'
import { BYTES, planesToRows, type BlockChannel } from './planes'

/** Halves back from the logarithm that linear channels are packed in: 8 times its logarithm. */
let logTable: Uint16Array | undefined
function logs(): Uint16Array {
  if (logTable) return logTable
  const values = halvesToFloats(Uint16Array.from({ length: 65536 }, (_, i) => i))
  for (let i = 0; i < values.length; i++)
    values[i] = Number.isFinite(values[i]!) && values[i]! > 0 ? 8 * Math.log(values[i]!) : 0
  return (logTable = floatsToHalves(values))
}

const tile = new Uint16Array(16)
/** Steps of a tile of 14 bytes: to, from, and where its six bits begin after the first 22. */
const ORDER = [4, 0, 8, 4, 12, 8, 1, 0, 5, 4, 9, 8, 13, 12, 2, 1, 6, 5, 10, 9, 14, 13, 3, 2, 7, 6, 11, 10, 15, 14]

function unpack14(bytes: Uint8Array, at: number): void {
  const shift = bytes[at + 2]! >> 2
  const bias = 0x20 << shift
  tile[0] = (bytes[at]! << 8) | bytes[at + 1]!
  for (let i = 0; i < 15; i++) {
    const bit = 22 + i * 6
    const byte = at + (bit >> 3)
    const six = (((bytes[byte]! << 8) | (bytes[byte + 1] ?? 0)) >> (10 - (bit & 7))) & 0x3f
    tile[ORDER[i * 2]!] = tile[ORDER[i * 2 + 1]!]! + (six << shift) - bias
  }
  for (let i = 0; i < 16; i++) tile[i] = tile[i]! & 0x8000 ? tile[i]! & 0x7fff : ~tile[i]!
}

export function b44Decode(
  packed: Uint8Array,
  channels: readonly BlockChannel[],
  rows: number,
  size: number,
): Uint8Array {
  const planes = new Uint8Array(size)
  let at = 0
  let start = 0
  for (const { type, across, down, linear } of channels) {
    const bytes = BYTES[type] * across * down
    if (type !== 'half') {
      if (at + bytes > packed.length) throw new Error('it is cut off.')
      planes.set(packed.subarray(at, at + bytes), start)
      at += bytes
    } else {
      const out = new Uint16Array(planes.buffer, 0, size >> 1)
      const first = start >> 1
      for (let y = 0; y < down; y += 4) {
        for (let x = 0; x < across; x += 4) {
          if (at + 3 > packed.length) throw new Error('it is cut off.')
          if (packed[at + 2]! >= 13 << 2) {
            const value = (packed[at]! << 8) | packed[at + 1]!
            tile.fill(value & 0x8000 ? value & 0x7fff : ~value)
            at += 3
          } else {
            if (at + 14 > packed.length) throw new Error('it is cut off.')
            unpack14(packed, at)
            at += 14
          }
          for (let v = 0; v < 4 && y + v < down; v++)
            for (let u = 0; u < 4 && x + u < across; u++)
              out[first + (y + v) * across + x + u] = linear ? logs()[tile[v * 4 + u]!]! : tile[v * 4 + u]!
        }
      }
    }
    start += bytes
  }
  return planesToRows(planes, channels, rows)
}
