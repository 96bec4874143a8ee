// OpenEXR pictures of brightness with fewer values of colour, made byte by byte.
import { describe, expect, it } from 'vitest'
import { emptyWindow, writeExr } from '../../core/formats/exr/exr'
import { readPicture } from '../../core/formats/picture/picture'

describe('brightness with fewer values of colour', () => {
  it('gives back the colours it was made from where they change slowly', async () => {
    // By the format: RY and BY have one value for 2 x 2 pixels. Made here byte by byte, since OpenImageIO neither
    // writes nor reads such
    const width = 16
    const height = 8
    const rgb = (x: number, y: number): [number, number, number] => [0.2 + x * 0.01, 0.3 + y * 0.02, 0.5 - x * 0.005]
    const bright = ([r, g, b]: [number, number, number]): number => 0.2126 * r + 0.7152 * g + 0.0722 * b
    const whole = writeExr({
      dataWindow: emptyWindow(width, height),
      displayWindow: emptyWindow(width, height),
      compression: 'none',
      attributes: [],
      channels: ['BY', 'RY', 'Y'].map(name => ({
        name,
        type: 'float',
        linear: false,
        data: new Float32Array(width * height),
      })),
    })
    const header = Buffer.from(whole)
    const ends: number[] = []
    for (const name of ['BY\0', 'RY\0']) {
      const at = header.indexOf(name) + 3
      header.writeInt32LE(2, at + 8)
      header.writeInt32LE(2, at + 12)
      ends.push(at)
    }
    const table = whole.length - height * (8 + width * 12) - height * 8
    const lines: Buffer[] = []
    const offsets = Buffer.alloc(height * 8)
    let at = table + height * 8
    for (let y = 0; y < height; y++) {
      const values: number[] = []
      for (const which of [2, 0])
        if (y % 2 === 0)
          for (let x = 0; x < width; x += 2) {
            const colour = rgb(x, y)
            const l = bright(colour)
            values.push((colour[which]! - l) / l)
          }
      for (let x = 0; x < width; x++) values.push(bright(rgb(x, y)))
      const line = Buffer.alloc(8 + values.length * 4)
      line.writeInt32LE(y, 0)
      line.writeInt32LE(values.length * 4, 4)
      values.forEach((value, i) => line.writeFloatLE(value, 8 + i * 4))
      offsets.writeBigUInt64LE(BigInt(at), y * 8)
      lines.push(line)
      at += line.length
    }
    const read = await readPicture(Buffer.concat([header.subarray(0, table), offsets, ...lines]))
    expect(read.width).toBe(width)
    for (let y = 0; y < height - 1; y++)
      for (let x = 0; x < width - 1; x++)
        rgb(x, y).forEach((value, c) =>
          expect(Math.abs(read.pixels[(y * width + x) * 4 + c]! - value), `${x}, ${y}`).toBeLessThan(0.004),
        )
  })
})
