// The fast reader against fast-png's own, on every kind and filter.
import { encode } from 'fast-png'
import { deflateSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import { readPlainPng } from './fast'
import { readPng, readPngLater } from './png'

const crc = (bytes: Uint8Array): number => {
  let value = ~0
  for (const byte of bytes) {
    value ^= byte
    for (let k = 0; k < 8; k++) value = (value >>> 1) ^ (value & 1 ? 0xedb88320 : 0)
  }
  return ~value >>> 0
}
/** A PNG whose rows carry the filters asked for; the bytes are what stands after filtering. */
function filtered(
  width: number,
  height: number,
  depth: number,
  kind: number,
  filters: number[],
  byte: (i: number) => number,
  cut = 0,
): Uint8Array {
  const step = ({ 0: 1, 2: 3, 4: 2, 6: 4 }[kind]! * depth) / 8
  const raw = Buffer.alloc(height * (width * step + 1))
  for (let y = 0; y < height; y++) {
    raw[y * (width * step + 1)] = filters[y % filters.length]!
    for (let i = 0; i < width * step; i++) raw[y * (width * step + 1) + 1 + i] = byte(y * width * step + i)
  }
  const chunk = (name: string, data: Uint8Array): Buffer => {
    const body = Buffer.concat([Buffer.from(name), data])
    const out = Buffer.alloc(body.length + 8)
    out.writeUInt32BE(data.length)
    body.copy(out, 4)
    out.writeUInt32BE(crc(body), body.length + 4)
    return out
  }
  const head = Buffer.alloc(13)
  head.writeUInt32BE(width)
  head.writeUInt32BE(height, 4)
  head[8] = depth
  head[9] = kind
  const packed = deflateSync(raw.subarray(0, raw.length - cut))
  const half = packed.length >> 1
  return new Uint8Array(
    Buffer.concat([
      Buffer.from([137, 80, 78, 71, 13, 10, 26, 10]),
      chunk('IHDR', head),
      chunk('IDAT', packed.subarray(0, half)),
      chunk('IDAT', packed.subarray(half)),
      chunk('IEND', Buffer.alloc(0)),
    ]),
  )
}

describe('plain PNGs', () => {
  for (const depth of [8, 16])
    for (const kind of [0, 2, 4, 6]) {
      it(`${depth} bit, colour type ${kind}, all five filters`, async () => {
        const bytes = filtered(23, 15, depth, kind, [0, 1, 2, 3, 4], i => (i * 97 + (i >> 5) * 31) & 255)
        const fast = await readPlainPng(bytes)
        expect(fast).toEqual({ ...readPng(bytes), data: fast!.data })
        expect([...fast!.data]).toEqual([...readPng(bytes).data])
      })
    }
  it('written by fast-png come back to the code', async () => {
    const data = Uint16Array.from({ length: 40 * 30 * 3 }, (_, i) => (i * 7919) & 65535)
    expect([...(await readPngLater(encode({ width: 40, height: 30, data, channels: 3, depth: 16 }))).data]).toEqual([
      ...data,
    ])
  })
  it('with a palette, fewer bits or interlacing are left to the general reader', async () => {
    const grey = filtered(8, 8, 8, 0, [0], i => i & 255)
    const other = grey.slice()
    other[28] = 1
    expect(await readPlainPng(other)).toBeUndefined()
    other[28] = 0
    other[25] = 3
    expect(await readPlainPng(other)).toBeUndefined()
  })
  it('that are damaged are refused', async () => {
    await expect(readPngLater(filtered(8, 8, 8, 2, [7], () => 1))).rejects.toThrow(/filter 7/)
    await expect(readPngLater(filtered(8, 8, 16, 2, [0], () => 1, 40))).rejects.toThrow(/fewer pixels/)
    const broken = filtered(20, 20, 8, 2, [1], i => (i * 31) & 255)
    broken.fill(255, 60, 120)
    await expect(readPngLater(broken)).rejects.toThrow(/damaged/)
  })
})
