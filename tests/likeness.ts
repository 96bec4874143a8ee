// How like two pictures are as one sees them, and pictures beside each other for documents.
import { writePng } from '../core/formats/png/png'
import { code } from './focusScenes'

export const lightness = (pixels: Float32Array, channels: number): Float64Array =>
  Float64Array.from({ length: pixels.length / channels }, (_, i) =>
    [0.2126, 0.7152, 0.0722].reduce((sum, weight, c) => sum + weight * code(pixels[i * channels + c]!), 0),
  )
/**
 * Mean structural similarity of lightness (Z. Wang, A. Bovik, H. Sheikh, E. Simoncelli, "Image Quality Assessment", IEEE
 * Transactions on Image Processing 13(4), 2004: a bell of 1.5 pixels over 11 by 11, K1 0.01, K2 0.03).
 */
export function ssim(a: Float64Array, b: Float64Array, width: number): number {
  const height = a.length / width
  const [c1, c2] = [(0.01 * 255) ** 2, (0.03 * 255) ** 2]
  const bell = Array.from({ length: 11 }, (_, i) => Math.exp(-((i - 5) ** 2) / 4.5))
  const whole = bell.reduce((sum, value) => sum + value, 0) ** 2
  let [total, count] = [0, 0]
  for (let y = 5; y < height - 5; y++)
    for (let x = 5; x < width - 5; x++) {
      let [ma, mb, aa, bb, ab] = [0, 0, 0, 0, 0]
      for (let j = 0; j < 11; j++)
        for (let i = 0; i < 11; i++) {
          const weight = (bell[i]! * bell[j]!) / whole
          const at = (y + j - 5) * width + x + i - 5
          ma += weight * a[at]!
          mb += weight * b[at]!
          aa += weight * a[at]! ** 2
          bb += weight * b[at]! ** 2
          ab += weight * a[at]! * b[at]!
        }
      const [va, vb, cov] = [aa - ma * ma, bb - mb * mb, ab - ma * mb]
      total += ((2 * ma * mb + c1) * (2 * cov + c2)) / ((ma * ma + mb * mb + c1) * (va + vb + c2))
      count++
    }
  return total / count
}

/** sRGB codes of a picture of so many floats a pixel, three a pixel. */
export const codesOf = (pixels: Float32Array, channels: number): Uint8Array =>
  Uint8Array.from({ length: (pixels.length / channels) * 3 }, (_, i) =>
    Math.round(code(pixels[Math.floor(i / 3) * channels + (i % 3)]!)),
  )

/** Pictures beside each other, twice as large, pixel by pixel. */
export function stripOf(
  pictures: readonly Uint8Array[],
  { width, height }: { width: number; height: number },
): Uint8Array {
  const across = pictures.length * (width * 2 + 4) - 4
  const data = new Uint8Array(across * height * 2 * 3).fill(255)
  pictures.forEach((picture, k) => {
    for (let y = 0; y < height * 2; y++)
      for (let x = 0; x < width * 2; x++)
        for (let c = 0; c < 3; c++)
          data[(y * across + k * (width * 2 + 4) + x) * 3 + c] = picture[((y >> 1) * width + (x >> 1)) * 3 + c]!
  })
  return writePng({ width: across, height: height * 2, channels: 3, maximum: 255, data })
}
