// Finished pictures as files, from the same evaluation as what is seen.
import { viewOf, viewTables } from '../colour/view'
import { writePicture } from '../formats/picture/picture'
import { writePng } from '../formats/png/png'
import { writeJpeg } from '../formats/jpeg/jpeg'
import { writeTiff } from '../formats/tiff/tiff'
import type { DeliveryFormat } from './deliveries'
import type { Pool } from '../engine/pool'
import { heightOf, widthOf } from '../engine/box'
import { Display } from '../../kernels/records'
import type { Raster } from '../../kernels/record'
import type { Evaluator } from './evaluate'
import { frameSize, type Request } from './request'

/**
 * Display codes RGBA (alpha 255) of a picture through a view, by the display kernel. gain multiplies first (for looking
 * only).
 */
export function displayCodes(
  pool: Pool,
  picture: Raster,
  view: string,
  gain = 1,
  channel = 0,
): Uint8ClampedArray<ArrayBuffer> {
  const { kernels } = pool
  const width = widthOf(picture)
  const height = heightOf(picture)
  const tables = viewTables(viewOf(view))
  const thresholds = kernels.place(tables.thresholds)
  const guess = kernels.place(tables.guess)
  const out = kernels.allocate(width * height * 4)
  try {
    pool.run(Display, picture, { source: picture, out: { ...picture, pointer: out }, thresholds, guess, gain, channel })
    const copy = new Uint8ClampedArray(width * height * 4)
    copy.set(kernels.bytes(out, copy.length))
    return copy
  } finally {
    for (const pointer of [thresholds, guess, out]) kernels.dispose(pointer)
  }
}

/**
 * File of a picture at full size: display formats through the shot's view, float formats scene-linear. It is made in
 * strips as high as the memory allows.
 */
export async function deliver(
  evaluator: Evaluator,
  request: Omit<Request, 'shrink'> & { shrink?: Request['shrink'] },
  format: DeliveryFormat,
  view = request.document.view,
): Promise<Uint8Array> {
  const asked = { ...request, shrink: request.shrink ?? 1 }
  const { width, height } = frameSize(asked)
  const { pool } = evaluator
  const { data, put } = collector(pool, width, height, view, format)
  await evaluator.eachStrip(asked, strip => put(strip, strip.top * width))
  if (data instanceof Float32Array)
    return writePicture(width, height, data, {
      format: format === 'tiff32' ? 'tiff' : 'exr',
      bits: format === 'exr16' ? 16 : 32,
      encoding: 'linear',
      alpha: true,
    })
  const coded = {
    width,
    height,
    channels: (data.length / (width * height)) as 3 | 4,
    maximum: data instanceof Uint8Array ? 255 : 65535,
    data,
  }
  if (format === 'jpeg') return writeJpeg({ ...coded, data: data as Uint8Array })
  return format === 'tiff8' || format === 'tiff16' ? writeTiff(coded) : writePng(coded)
}

/** Room for all that a file holds, and what puts a strip into it (from its first pixel on). */
function collector(
  pool: Pool,
  width: number,
  height: number,
  view: string,
  format: DeliveryFormat,
): { data: Uint8Array | Uint16Array | Float32Array; put: (strip: Raster, first: number) => void } {
  const numbers = (strip: Raster): Float32Array =>
    pool.kernels.floats(strip.pointer, widthOf(strip) * heightOf(strip) * 4)
  if (format === 'png8' || format === 'jpeg' || format === 'tiff8') {
    const data = new Uint8Array(width * height * 3)
    return {
      data,
      put: (strip, first) => {
        const codes = displayCodes(pool, strip, view)
        for (let i = 0, to = first * 3; i < codes.length; i += 4) {
          data[to++] = codes[i]!
          data[to++] = codes[i + 1]!
          data[to++] = codes[i + 2]!
        }
      },
    }
  }
  if (format === 'png16' || format === 'png16a' || format === 'tiff16') {
    const { encode } = viewOf(view)
    const channels = format === 'png16a' ? 4 : 3
    const data = new Uint16Array(width * height * channels)
    const code = (value: number): number => Math.min(65535, Math.floor(value * 65535 + 0.5))
    return {
      data,
      put: (strip, first) => {
        const pixels = numbers(strip)
        for (let i = 0, to = first * channels; i < pixels.length; i += 4) {
          // With alpha the colours are as they are over nothing: straight
          const alpha = channels === 4 ? Math.max(0, Math.min(1, pixels[i + 3]!)) : 1
          for (let c = 0; c < 3; c++) {
            const value = alpha > 0 ? pixels[i + c]! / alpha : 0
            data[to++] = value > 0 ? code(encode(value)) : 0
          }
          if (channels === 4) data[to++] = code(alpha)
        }
      },
    }
  }
  const data = new Float32Array(width * height * 4)
  return { data, put: (strip, first) => data.set(numbers(strip), first * 4) }
}
