import { deflateSync } from 'node:zlib'
import { expect, it } from 'vitest'
import { BadInput } from './errors'
import { emptyWindow, readExr, readExrLater, writeExr, type Compression } from './exr/exr'
import { inflateLater } from './zlib'

// Node's zlib is the outside reference for the stream of the platform
const text = Uint8Array.from({ length: 300000 }, (_, i) => (i * i) % 251)
const packed = new Uint8Array(deflateSync(text))

it('inflates by the platform what zlib deflated', async () => {
  expect(await inflateLater(packed, text.length)).toEqual(text)
})
it('takes no more than it was told of, and refuses what is damaged or cut off', async () => {
  await expect(inflateLater(packed, text.length - 1)).rejects.toThrow(/longer/)
  await expect(inflateLater(packed.subarray(0, 500), text.length)).rejects.toThrow()
  await expect(
    inflateLater(
      packed.map((byte, i) => (i > 300 && i < 400 ? byte ^ 255 : byte)),
      text.length,
    ),
  ).rejects.toThrow()
})

const picture = (compression: Compression) =>
  writeExr({
    dataWindow: emptyWindow(61, 47),
    displayWindow: emptyWindow(61, 47),
    compression,
    attributes: [],
    channels: ['A', 'B', 'Z'].map((name, c) => ({
      name,
      type: 'float' as const,
      linear: false,
      data: Float32Array.from({ length: 61 * 47 }, (_, i) => Math.round(Math.sin(i / 50 + c) * 100)),
    })),
  })
it.each(['none', 'rle', 'zips', 'zip'] as const)(
  '%s: an EXR read block by block in the background is the same picture',
  async compression => {
    const bytes = picture(compression)
    expect(await readExrLater(bytes)).toEqual(readExr(bytes))
    expect((await readExrLater(bytes, name => name === 'Z')).channels.map(channel => channel.name)).toEqual(['Z'])
  },
)
it('a damaged block is named in the background too', async () => {
  const bytes = picture('zip')
  bytes.fill(7, bytes.length - 200)
  await expect(readExrLater(bytes)).rejects.toThrow(/damaged in block 2/)
  await expect(readExrLater(bytes)).rejects.toBeInstanceOf(BadInput)
})
