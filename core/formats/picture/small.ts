// Small pictures whose numbers say a shape: codes count as they are, black to white, light as it is.
import { encodingOf } from '../../colour/encoding'
import { BadInput } from '../errors'
import { readPicture, toWorking } from './picture'
import { pictureSize } from './size'

/** Pixels to a side at most. */
export const MOST_SMALL = 512
export interface SmallPicture {
  width: number
  height: number
  /** Premultiplied RGBA, row by row. */
  pixels: Float32Array
}

/** Throws BadInput for what is no picture, is larger, or has nothing in it. */
export async function readSmall(bytes: Uint8Array): Promise<SmallPicture> {
  const head = pictureSize(bytes)
  if (head.width > MOST_SMALL || head.height > MOST_SMALL)
    throw new BadInput(
      `A shape is a picture of at most ${MOST_SMALL} × ${MOST_SMALL} pixels; this one has ${head.width} × ${head.height}.`,
    )
  const file = await readPicture(bytes)
  const pixels = toWorking(
    file,
    encodingOf('data'),
    file.hasAlpha ? (file.float ? 'premultiplied' : 'straight') : 'none',
  )
  if (!pixels.some((value, i) => i % 4 < 3 && value > 0))
    throw new BadInput('This picture is black: it gives no shape.')
  return { width: file.width, height: file.height, pixels }
}
