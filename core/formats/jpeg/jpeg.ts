// JPEG by jpeg-js: baseline and progressive, 8 bit.
import jpeg from 'jpeg-js'
import { BadInput, checkSize, MAXIMUM_PIXELS } from '../errors'
import type { CodedPicture } from '../png/png'
import { blocksOf, headOf, mixed, scansOf } from './components'

export const isJpeg = (bytes: Uint8Array): boolean =>
  bytes.length > 3 && bytes[0] === 0xff && bytes[1] === 0xd8 && bytes[2] === 0xff

/** Scans that are read; progressive files as a rule have ten, at most some hundred. */
const MOST_SCANS = 200

export function readJpeg(bytes: Uint8Array): CodedPicture {
  const head = headOf(bytes)
  if (!head) throw new BadInput('This JPEG is cut off: it has no frame header.')
  checkSize('This JPEG', head.width, head.height)
  // The shortest code of a block is one bit; the decoder takes memory for all of them at once
  if (bytes.length * 8 < blocksOf(head)) throw new BadInput('This JPEG is damaged: it holds fewer pixels than it says.')
  const scans = scansOf(bytes)
  if (scans > MOST_SCANS) throw new BadInput(`This JPEG has ${scans} scans; at most ${MOST_SCANS} are read.`)
  // The decoder repeats chroma and mixes at once: it is asked for what the file holds, and the rest is done here
  const apart = head.components.length === 3
  let coded = bytes
  if (apart && head.adobe) {
    coded = bytes.slice()
    coded[head.adobe.at] = 0
  }
  try {
    const { width, height, data } = jpeg.decode(coded, {
      useTArray: true,
      formatAsRGBA: true,
      tolerantDecoding: false,
      colorTransform: apart ? false : undefined,
      maxResolutionInMP: MAXIMUM_PIXELS / 1e6,
      maxMemoryUsageInMB: 4096,
    })
    if (apart) return { width, height, channels: 3, maximum: 255, data: mixed(data, width, height, head) }
    const out = new Uint8Array(width * height * 3)
    for (let i = 0, o = 0; o < out.length; i += 4, o += 3) {
      out[o] = data[i]!
      out[o + 1] = data[i + 1]!
      out[o + 2] = data[i + 2]!
    }
    return { width, height, channels: 3, maximum: 255, data: out }
  } catch (error) {
    throw new BadInput(`This JPEG is damaged: ${(error as Error).message}`)
  }
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
