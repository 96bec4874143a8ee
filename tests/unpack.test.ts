// The kernel that undoes OpenEXR's byte order against the script, whole files through both.
import { expect, it } from 'vitest'
import { Kernels } from '../core/engine/memory'
import { byteRestorer } from '../core/engine/unpack'
import { decompressBlock } from '../core/formats/exr/block'
import { useRestorer } from '../core/formats/exr/bytes'
import { emptyWindow, readExr, readExrLater, writeExr } from '../core/formats/exr/exr'
import { kernelModule } from '../host/engine'

const kernels = new Kernels(kernelModule())
const restore = byteRestorer(kernels)
/** As the format describes it: differences from 128 summed up, then even and odd bytes put together again. */
function plain(bytes: Uint8Array): Uint8Array {
  const summed = bytes.slice()
  for (let i = 1; i < summed.length; i++) summed[i] = summed[i - 1]! + summed[i]! - 128
  const half = (bytes.length + 1) >> 1
  return Uint8Array.from(summed, (_, i) => summed[i % 2 ? half + (i >> 1) : i >> 1]!)
}

it('is the same for every length about the steps of the kernel', () => {
  for (const size of [1, 2, 3, 15, 16, 17, 31, 32, 33, 63, 64, 65, 100, 1023, 4097, 50000]) {
    const bytes = Uint8Array.from({ length: size }, (_, i) => (i * 131 + (i >> 3) * 17 + size) & 255)
    expect(Buffer.compare(Buffer.from(restore(bytes)), Buffer.from(plain(bytes))), `${size} bytes`).toBe(0)
  }
})

it('whole files read through it, one after another and side by side', async () => {
  const image = (seed: number) => ({
    dataWindow: emptyWindow(97, 53),
    displayWindow: emptyWindow(97, 53),
    compression: 'zip' as const,
    attributes: [],
    channels: ['A', 'B', 'G'].map((name, c) => ({
      name,
      type: 'float' as const,
      linear: false,
      data: Float32Array.from({ length: 97 * 53 }, (_, i) => Math.sin(i * seed + c)),
    })),
  })
  const files = [0.01, 0.02, 0.03].map(seed => writeExr(image(seed)))
  const before = files.map(file => readExr(file))
  useRestorer(restore)
  expect(files.map(file => readExr(file))).toEqual(before)
  expect(await Promise.all(files.map(file => readExrLater(file)))).toEqual(before)
  expect(() => decompressBlock('zip', new Uint8Array(8), { channels: [], rows: 1, size: 100 })).toThrow()
})
