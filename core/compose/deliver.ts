// Finished pictures as files, from the same evaluation as what is seen.
import * as L from '../../kernels/assembly/layout'
import { viewOf, viewTables } from '../colour/view'
import { writePicture } from '../formats/picture/picture'
import { writePng } from '../formats/png/png'
import { writeJpeg } from '../formats/jpeg/jpeg'
import { writeTiff } from '../formats/tiff/tiff'
import type { DeliveryFormat } from './deliveries'
import type { Keyed } from './evaluate'
import { float, type Pool } from '../engine/pool'

/**
 * Display codes RGBA (alpha 255) of a picture through a view, by the display kernel. gain multiplies first (for looking
 * only).
 */
export function displayCodes(
  pool: Pool,
  picture: Keyed,
  view: string,
  gain = 1,
  channel = 0,
): Uint8ClampedArray<ArrayBuffer> {
  const { kernels } = pool
  const { width, height, pointer } = picture.raster
  const tables = viewTables(viewOf(view))
  const thresholds = kernels.place(tables.thresholds)
  const guess = kernels.place(tables.guess)
  const out = kernels.allocate(width * height * 4)
  try {
    pool.run(L.KERNEL_DISPLAY, Math.ceil(height / L.BAND_ROWS), [
      width,
      height,
      pointer,
      out,
      thresholds,
      guess,
      float(gain),
      channel,
    ])
    const copy = new Uint8ClampedArray(width * height * 4)
    copy.set(kernels.bytes(out, copy.length))
    return copy
  } finally {
    for (const pointer of [thresholds, guess, out]) kernels.dispose(pointer)
  }
}

/** File of a picture: display formats through the view, float formats scene-linear. */
export function deliver(pool: Pool, picture: Keyed, view: string, format: DeliveryFormat): Uint8Array {
  const { width, height, pointer } = picture.raster
  if (format === 'png8' || format === 'jpeg' || format === 'tiff8') {
    const codes = displayCodes(pool, picture, view)
    const data = new Uint8Array(width * height * 3)
    for (let i = 0, to = 0; to < data.length; i += 4) {
      data[to++] = codes[i]!
      data[to++] = codes[i + 1]!
      data[to++] = codes[i + 2]!
    }
    const coded = { width, height, channels: 3 as const, maximum: 255, data }
    return format === 'png8' ? writePng(coded) : format === 'jpeg' ? writeJpeg(coded) : writeTiff(coded)
  }
  const pixels = pool.kernels.floats(pointer, width * height * 4).slice()
  if (format === 'png16' || format === 'png16a' || format === 'tiff16') {
    const { encode } = viewOf(view)
    const channels = format === 'png16a' ? 4 : 3
    const data = new Uint16Array(width * height * channels)
    const code = (value: number): number => Math.min(65535, Math.floor(value * 65535 + 0.5))
    for (let i = 0, to = 0; to < data.length; i += 4) {
      // With alpha the colours are as they are over nothing: straight
      const alpha = channels === 4 ? Math.max(0, Math.min(1, pixels[i + 3]!)) : 1
      for (let c = 0; c < 3; c++) {
        const value = alpha > 0 ? pixels[i + c]! / alpha : 0
        data[to++] = value > 0 ? code(encode(value)) : 0
      }
      if (channels === 4) data[to++] = code(alpha)
    }
    const coded = { width, height, channels: channels as 3 | 4, maximum: 65535, data }
    return format === 'tiff16' ? writeTiff(coded) : writePng(coded)
  }
  return writePicture(width, height, pixels, {
    format: format === 'tiff32' ? 'tiff' : 'exr',
    bits: format === 'exr16' ? 16 : 32,
    encoding: 'linear',
    alpha: true,
  })
}
