// What a picture file says of itself and what its pixels show, without keeping the pixels: enough to say how to read
// it, and what does not fit.
import type { LensFacts } from './exif'
import type { AlphaKind, PictureFile, PictureFormat } from './picture'

/** How the alpha of a file looks: absent, 1 everywhere, or as its soft edges show it. */
export type AlphaLook = 'none' | 'opaque' | 'straight' | 'premultiplied' | 'unclear'
export interface PictureFacts extends LensFacts {
  format: PictureFormat
  bits: 8 | 16 | 32
  float: boolean
  alpha: AlphaLook
}

/** The least number of soft pixels from which something can be told. */
const ENOUGH = 64

/**
 * Tells straight from premultiplied alpha by its soft pixels. Premultiplied colour falls with alpha, so colour / alpha
 * is about the same in thin and in dense pixels; straight colour does not, so colour / alpha grows as pixels get thin.
 * Between the two (factor 1.5 to 2) nothing is claimed. Common practice, no source; the limits are ours.
 */
export function lookOfAlpha({ pixels, hasAlpha }: Pick<PictureFile, 'pixels' | 'hasAlpha'>): AlphaLook {
  if (!hasAlpha) return 'none'
  const thin = { sum: 0, count: 0 }
  const dense = { sum: 0, count: 0 }
  let clear = 0
  let clearColour = 0
  let solid = 0
  for (let i = 0; i < pixels.length; i += 4) {
    const alpha = pixels[i + 3]!
    if (alpha >= 0.995) {
      solid++
      continue
    }
    const colour = Math.max(pixels[i]!, pixels[i + 1]!, pixels[i + 2]!)
    if (alpha <= 0) {
      clear++
      if (colour > 0.01) clearColour++
      continue
    }
    const bin = alpha < 0.35 && alpha > 0.02 ? thin : alpha > 0.65 ? dense : undefined
    if (bin && Number.isFinite(colour)) {
      bin.sum += colour / alpha
      bin.count++
    }
  }
  if (solid * 4 === pixels.length) return 'opaque'
  if (thin.count < ENOUGH || dense.count < ENOUGH || dense.sum <= 0)
    return clearColour > Math.max(ENOUGH, clear * 0.05) ? 'straight' : 'unclear'
  const growth = thin.sum / thin.count / (dense.sum / dense.count)
  return growth > 2 ? 'straight' : growth < 1.5 ? 'premultiplied' : 'unclear'
}

export const factsOf = (file: PictureFile): PictureFacts => ({
  format: file.format,
  bits: file.bits,
  float: file.float,
  alpha: lookOfAlpha(file),
})

/** The encoding a file most likely has, with the reason in words. */
export function guessEncoding({ format, float, bits }: Pick<PictureFile, 'format' | 'float' | 'bits'>): {
  encoding: string
  reason: string
} {
  if (float)
    return { encoding: 'linear', reason: `floating point ${format.toUpperCase()} holds light itself as a rule` }
  return { encoding: 'srgb', reason: `${bits}-bit ${format.toUpperCase()} is made for the display as a rule` }
}

/**
 * How its alpha is most likely meant: what the file says, else what its edges show, else the rule of its format (PNG
 * straight, OpenEXR premultiplied).
 */
export function guessAlpha(file: Pick<PictureFile, 'hasAlpha' | 'float' | 'alphaSaid'>, look: AlphaLook): AlphaKind {
  if (!file.hasAlpha) return 'none'
  if (file.alphaSaid) return file.alphaSaid
  if (look === 'straight' || look === 'premultiplied') return look
  return file.float ? 'premultiplied' : 'straight'
}
