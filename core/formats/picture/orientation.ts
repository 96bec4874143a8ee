// Which way up a picture was taken: Exif 2.32, 4.6.4 (Orientation, tag 274), the same as TIFF 6.0's; in JPEG in the segment
// APP1, in PNG in the chunk eXIf.
import { chunksOf } from '../png/chunks'
import type { CodedPicture } from '../png/coded'

export type Orientation = 1 | 2 | 3 | 4 | 5 | 6 | 7 | 8
const ORIENTATION = 0x0112

/** 1 (as it stands) where a file says nothing, or nothing that makes sense. */
export function orientationOf(bytes: Uint8Array): Orientation {
  try {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    const start = directoryStart(view)
    const found = start === undefined ? 1 : orientationAt(view, start)
    return found >= 1 && found <= 8 ? (found as Orientation) : 1
  } catch {
    // Damage in it is no reason to refuse the picture
    return 1
  }
}
/** Whether width and height change places. */
export const isTurned = (orientation: Orientation): boolean => orientation >= 5

/** Where a TIFF header begins in the file. */
function directoryStart(view: DataView): number | undefined {
  const first = view.getUint16(0)
  if (first === 0x4949 || first === 0x4d4d) return 0
  if (first === 0xffd8)
    for (let at = 2; at + 10 < view.byteLength && view.getUint8(at) === 0xff;) {
      const marker = view.getUint8(at + 1)
      if (marker === 0xda) return undefined
      if (marker === 0xe1 && view.getUint32(at + 4) === 0x45786966) return at + 10
      at += 2 + view.getUint16(at + 2)
    }
  if (first === 0x8950)
    for (const { kind, from } of chunksOf(new Uint8Array(view.buffer, view.byteOffset, view.byteLength))) {
      if (kind === 'eXIf') return from + 8
      if (kind === 'IDAT') return undefined
    }
  return undefined
}
function orientationAt(view: DataView, start: number): number {
  const little = view.getUint16(start) === 0x4949
  if (view.getUint16(start + 2, little) !== 42) return 1
  const directory = start + view.getUint32(start + 4, little)
  for (let i = 0; i < view.getUint16(directory, little); i++) {
    const entry = directory + 2 + i * 12
    if (view.getUint16(entry, little) === ORIENTATION) return view.getUint16(entry + 8, little)
  }
  return 1
}

/** The picture the way up it was taken. */
export function upright(picture: CodedPicture, orientation: Orientation): CodedPicture {
  if (orientation === 1) return picture
  const { width, height, channels, data } = picture
  const turned = isTurned(orientation)
  const [outWidth, outHeight] = turned ? [height, width] : [width, height]
  const out = data.slice()
  // Where the pixel at x, y of what is shown stands in the file: which side of it is the file's first row and first column
  const from: Record<Orientation, (x: number, y: number) => [number, number]> = {
    1: (x, y) => [x, y],
    2: (x, y) => [width - 1 - x, y],
    3: (x, y) => [width - 1 - x, height - 1 - y],
    4: (x, y) => [x, height - 1 - y],
    5: (x, y) => [y, x],
    6: (x, y) => [y, height - 1 - x],
    7: (x, y) => [width - 1 - y, height - 1 - x],
    8: (x, y) => [width - 1 - y, x],
  }
  const place = from[orientation]
  for (let y = 0, to = 0; y < outHeight; y++)
    for (let x = 0; x < outWidth; x++) {
      const [sx, sy] = place(x, y)
      const at = (sy * width + sx) * channels
      for (let c = 0; c < channels; c++) out[to++] = data[at + c]!
    }
  return { ...picture, width: outWidth, height: outHeight, data: out }
}
