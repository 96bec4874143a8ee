// The size of a picture from its first bytes, without unpacking it.
import { BadInput } from '../errors'
import { isTurned, orientationOf } from './orientation'
import { boxHeight, boxWidth, readExrHeaders } from '../exr/exr'
import { pictureFormat } from './picture'

/** Enough for the header of any picture but the oddest TIFF. */
export const HEADER_BYTES = 1 << 20

/**
 * Width and height as the file's head says. Throws BadInput when it is no picture or the head does not reach so far.
 */
export function pictureSize(head: Uint8Array): { width: number; height: number } {
  const format = pictureFormat(head)
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength)
  try {
    if (format === 'png') return asTaken(head, { width: view.getUint32(16), height: view.getUint32(20) })
    if (format === 'exr') {
      const { displayWindow } = readExrHeaders(head, true).parts[0]!
      return { width: boxWidth(displayWindow), height: boxHeight(displayWindow) }
    }
    if (format === 'hdr') {
      const line = /\n([-+])([XY]) (\d+) ([-+])([XY]) (\d+)\n/.exec(
        new TextDecoder('latin1').decode(head.subarray(0, 8192)),
      )
      if (line)
        return line[2] === 'Y'
          ? { width: Number(line[6]), height: Number(line[3]) }
          : { width: Number(line[3]), height: Number(line[6]) }
    }
    if (format === 'jpeg') return asTaken(head, jpegSize(view))
    if (format === 'tiff') return asTaken(head, tiffSize(view))
  } catch (error) {
    if (error instanceof BadInput) throw error
  }
  throw new BadInput(
    format ? 'The size of this picture cannot be read from its head.' : 'This file is no picture that is read here.',
  )
}

/** The size the way up that the picture was taken. */
function asTaken(head: Uint8Array, size: { width: number; height: number }): { width: number; height: number } {
  return isTurned(orientationOf(head)) ? { width: size.height, height: size.width } : size
}

/** ITU-T T.81, annex B: the frame header follows any number of other segments. */
function jpegSize(view: DataView): { width: number; height: number } {
  for (let at = 2; ;) {
    if (view.getUint8(at) !== 0xff) throw new BadInput('This JPEG is damaged before its size.')
    const marker = view.getUint8(at + 1)
    if (marker === 0xff) {
      at++
      continue
    }
    if (marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc)
      return { width: view.getUint16(at + 7), height: view.getUint16(at + 5) }
    at += 2 + view.getUint16(at + 2)
  }
}

/** TIFF 6.0, section 2: tags 256 and 257 of the first directory. */
function tiffSize(view: DataView): { width: number; height: number } {
  const little = view.getUint8(0) === 0x49
  const directory = view.getUint32(4, little)
  let width = 0
  let height = 0
  for (let i = 0, count = view.getUint16(directory, little); i < count; i++) {
    const at = directory + 2 + i * 12
    const tag = view.getUint16(at, little)
    const value = view.getUint16(at + 2, little) === 3 ? view.getUint16(at + 8, little) : view.getUint32(at + 8, little)
    if (tag === 256) width = value
    if (tag === 257) height = value
  }
  return { width, height }
}
