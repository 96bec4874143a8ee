// Small pictures of a clip's frames, for playing only: JPEG at 960 pixels wide at most.
import { encodingOf } from '../core/colour/encoding'
import { writeJpeg } from '../core/formats/jpeg/jpeg'
import { SMALL_CURVE } from '../core/shot/clip'
import { quantize, type PictureFile } from '../core/formats/picture/picture'

const SMALL_WIDTH = 960
const QUALITY = 92
/** A half, a quarter … of the width: pictures shrunk by halves need no fitting. */
export function smallWidth(width: number): number {
  let wide = width
  while (wide > SMALL_WIDTH && wide % 2 === 0) wide /= 2
  return wide > SMALL_WIDTH ? SMALL_WIDTH : wide
}

/** The codes of a picture, shrunk by means of whole areas; light goes through the PQ curve, which a display's range fits. */
export function smallPicture(file: PictureFile): Uint8Array {
  const width = smallWidth(file.width)
  const scale = file.width / width
  const height = Math.max(1, Math.round(file.height / scale))
  const data = new Uint8Array(width * height * 3)
  const { pixels } = file
  const encode = file.float && encodingOf(SMALL_CURVE).encode!
  for (let y = 0; y < height; y++) {
    const top = Math.min(file.height - 1, Math.floor(y * scale))
    const bottom = Math.min(file.height, Math.max(top + 1, Math.floor((y + 1) * scale)))
    for (let x = 0; x < width; x++) {
      const left = Math.min(file.width - 1, Math.floor(x * scale))
      const right = Math.min(file.width, Math.max(left + 1, Math.floor((x + 1) * scale)))
      const sum = [0, 0, 0]
      for (let v = top; v < bottom; v++)
        for (let u = left, i = (v * file.width + left) * 4; u < right; u++, i += 4) {
          sum[0]! += pixels[i]!
          sum[1]! += pixels[i + 1]!
          sum[2]! += pixels[i + 2]!
        }
      const share = 1 / ((bottom - top) * (right - left))
      for (let c = 0; c < 3; c++) {
        const mean = sum[c]! * share
        data[(y * width + x) * 3 + c] = quantize(encode ? encode(mean) : mean, 255)
      }
    }
  }
  return writeJpeg({ width, height, channels: 3, maximum: 255, data }, QUALITY)
}
