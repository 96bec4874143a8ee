// JPEG by jpeg-js: baseline and progressive, 8 bit.
import jpeg from 'jpeg-js'
import { BadInput, checkSize, MAXIMUM_PIXELS } from '../errors'
import type { CodedPicture } from '../png/png'

export const isJpeg = (bytes: Uint8Array): boolean =>
  bytes.length > 3 && bytes[0] === 0xff && bytes[1] === 0xd8 && bytes[2] === 0xff

export function readJpeg(bytes: Uint8Array): CodedPicture {
  const size = frameSize(bytes)
  if (!size) throw new BadInput('This JPEG is cut off: it has no frame header.')
  checkSize('This JPEG', size.width, size.height)
  try {
    const image = jpeg.decode(bytes, {
      useTArray: true,
      formatAsRGBA: true,
      tolerantDecoding: false,
      maxResolutionInMP: MAXIMUM_PIXELS / 1e6,
      maxMemoryUsageInMB: 4096,
    })
    const data = new Uint8Array(image.width * image.height * 3)
    for (let i = 0, o = 0; o < data.length; i += 4, o += 3) {
      data[o] = image.data[i]!
      data[o + 1] = image.data[i + 1]!
      data[o + 2] = image.data[i + 2]!
    }
    return { width: image.width, height: image.height, channels: 3, maximum: 255, data }
  } catch (error) {
    throw new BadInput(`This JPEG is damaged: ${(error as Error).message}`)
  }
}

/** Size from the start-of-frame marker (ITU-T T.81, B.2.2), before anything is decoded. */
function frameSize(bytes: Uint8Array): { width: number; height: number } | undefined {
  let at = 2
  while (at + 9 < bytes.length) {
    if (bytes[at] !== 0xff) {
      at++
      continue
    }
    const marker = bytes[at + 1]!
    if (marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc)
      return { height: bytes[at + 5]! * 256 + bytes[at + 6]!, width: bytes[at + 7]! * 256 + bytes[at + 8]! }
    if (marker === 0xff || (marker >= 0xd0 && marker <= 0xd9) || marker === 1) {
      at += marker === 0xff ? 1 : 2
      continue
    }
    at += 2 + bytes[at + 2]! * 256 + bytes[at + 3]!
  }
  return undefined
}

/** 8-bit codes, 3 channels. quality 1..100. */
export function writeJpeg(picture: CodedPicture, quality = 95): Uint8Array {
  const rgba = new Uint8Array(picture.width * picture.height * 4)
  for (let i = 0; i < picture.width * picture.height; i++) {
    for (let c = 0; c < 3; c++)
      rgba[i * 4 + c] = picture.data[i * picture.channels + Math.min(c, picture.channels - 1)]!
    rgba[i * 4 + 3] = 255
  }
  return new Uint8Array(jpeg.encode({ width: picture.width, height: picture.height, data: rgba }, quality).data)
}
