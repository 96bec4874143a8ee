// Finished pictures as files, from the same evaluation as what is seen.
import * as L from '../../kernels/assembly/layout'
import { viewOf, viewTables } from '../colour/view'
import { writePicture } from '../formats/picture/picture'
import { writePng } from '../formats/png/png'
import { writeJpeg } from '../formats/jpeg/jpeg'
import { writeTiff } from '../formats/tiff/tiff'
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

export type DeliveryFormat = 'png8' | 'png16' | 'tiff8' | 'tiff16' | 'tiff32' | 'jpeg' | 'exr16' | 'exr32'
/** All passes in one part, which any reader takes, or each layer as a part of its own. */
export type PassFormat = 'passes' | 'passes_parts'
export const DELIVERY_ENDINGS: Record<DeliveryFormat | PassFormat, string> = {
  png8: 'png',
  png16: 'png',
  tiff8: 'tif',
  tiff16: 'tif',
  tiff32: 'tif',
  jpeg: 'jpg',
  exr16: 'exr',
  exr32: 'exr',
  passes: 'exr',
  passes_parts: 'exr',
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
  if (format === 'png16' || format === 'tiff16') {
    const { encode } = viewOf(view)
    const data = new Uint16Array(width * height * 3)
    for (let i = 0, to = 0; to < data.length; i += 4)
      for (let c = 0; c < 3; c++) {
        const value = pixels[i + c]!
        data[to++] = value > 0 ? Math.min(65535, Math.floor(encode(value) * 65535 + 0.5)) : 0
      }
    const coded = { width, height, channels: 3 as const, maximum: 65535, data }
    return format === 'png16' ? writePng(coded) : writeTiff(coded)
  }
  return writePicture(width, height, pixels, {
    format: format === 'tiff32' ? 'tiff' : 'exr',
    bits: format === 'exr16' ? 16 : 32,
    encoding: 'linear',
    alpha: true,
  })
}
