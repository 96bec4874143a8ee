// A picture of the engine as something that is drawn, at any size, on a canvas.
import type { Picture } from '~/workers/messages'

/** At its own size. */
export function canvasOf({ width, height, codes }: Pick<Picture, 'width' | 'height' | 'codes'>): OffscreenCanvas {
  const canvas = new OffscreenCanvas(width, height)
  canvas.getContext('2d')!.putImageData(new ImageData(codes, width, height), 0, 0)
  return canvas
}
