// WOFF 1.0 (W3C Recommendation 2012): an OpenType font whose tables are packed one by one.
import { unzlibSync } from 'fflate'

const HEADER = 44
const ENTRY = 20

/** The font that it holds. Throws what is wrong. most: bytes that it may unpack to. */
export function sfntOfWoff(bytes: Uint8Array, most: number): Uint8Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const count = view.getUint16(12)
  if (HEADER + count * ENTRY > bytes.length) throw new Error('it ends before the list of its tables does')
  const tables = Array.from({ length: count }, (_, i) => {
    const at = HEADER + i * ENTRY
    const [tag, offset, packed, length, sum] = [0, 4, 8, 12, 16].map(by => view.getUint32(at + by)) as [
      number,
      number,
      number,
      number,
      number,
    ]
    if (offset + packed > bytes.length) throw new Error('it ends before its tables do')
    if (packed > length) throw new Error('a table of it is longer packed than unpacked')
    return { tag, offset, packed, length, sum }
  })
  const begins = 12 + count * 16
  const size = tables.reduce((sum, { length }) => sum + Math.ceil(length / 4) * 4, begins)
  if (size > most) throw new Error('its tables unpack to more than it says')
  const out = new Uint8Array(size)
  const to = new DataView(out.buffer)
  to.setUint32(0, view.getUint32(4))
  to.setUint16(4, count)
  // How one searches the list of tables (OpenType 1.9, table directory)
  const power = 2 ** Math.floor(Math.log2(Math.max(1, count)))
  to.setUint16(6, power * 16)
  to.setUint16(8, Math.log2(power))
  to.setUint16(10, (count - power) * 16)
  let at = begins
  tables.forEach(({ tag, offset, packed, length, sum }, i) => {
    ;[tag, sum, at, length].forEach((value, k) => to.setUint32(12 + i * 16 + k * 4, value))
    const part = bytes.subarray(offset, offset + packed)
    const table = packed === length ? part : unzlibSync(part, { out: new Uint8Array(length) })
    if (table.length !== length) throw new Error('a table of it is not as long as it says')
    out.set(table, at)
    at += Math.ceil(length / 4) * 4
  })
  return out
}
