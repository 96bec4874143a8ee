// Pictures that are said number by number, and what shots with drawings show.
import { emptyWindow, writeExr, type ExrAttribute, type ExrChannel } from '../core/formats/exr/exr'
import type { ShotDocument } from '../core/shot/document'
import type { Plane } from './compose/passes'
import { engine, evaluator } from './layeredShot'

/** An OpenEXR of planes by the names of their channels, and of channels beside them. */
export function exrOf(
  [width, height]: readonly [number, number],
  planes: Readonly<Record<string, Plane>>,
  more: { channels?: readonly ExrChannel[]; attributes?: readonly ExrAttribute[] } = {},
): Uint8Array {
  const window = emptyWindow(width, height)
  const made = Object.entries(planes).map(([name, of]): ExrChannel => ({
    ...{ name, type: 'float', linear: false },
    data: Float32Array.from({ length: width * height }, (_, i) => of(i % width, Math.floor(i / width))),
  }))
  return writeExr({
    ...{ dataWindow: window, displayWindow: window, compression: 'zip', attributes: [...(more.attributes ?? [])] },
    channels: [...made, ...(more.channels ?? [])],
  })
}
/** What a document says of such a picture, premultiplied light. */
export const lightPicture = (blob: string, width: number, height: number) => ({
  ...{ blob, name: 'drawn.exr', encoding: 'linear', alpha: 'premultiplied', width, height },
})
export async function shown(
  document: ShotDocument,
  frame: number,
  shrink: 1 | 2 = 1,
  only?: string[],
): Promise<Float32Array> {
  const raster = await evaluator.evaluate({ document, frame, shrink, show: { kind: 'build' }, only })
  return engine.kernels.floats(raster.pointer, raster.width * raster.height * 4).slice()
}
