// What a camera wrote into a photograph about its lens (Exif 2.3, by the exifr package).
import exifr from 'exifr'

export interface LensFacts {
  /** Millimetres as written. */
  focalLength?: number
  /** Millimetres on 35 mm film: the same angle over the diagonal. */
  focalLength35?: number
}

const sane = (value: unknown): number | undefined =>
  typeof value === 'number' && value >= 1 && value <= 5000 ? value : undefined

/** Empty where nothing is said; damage in it is no reason to refuse the picture. */
export async function lensOf(bytes: Uint8Array): Promise<LensFacts> {
  try {
    const found = (await exifr.parse(bytes, ['FocalLength', 'FocalLengthIn35mmFormat'])) as
      Record<string, unknown> | undefined
    return { focalLength: sane(found?.FocalLength), focalLength35: sane(found?.FocalLengthIn35mmFormat) }
  } catch {
    return {}
  }
}

/** Diagonal of a 36 x 24 mm frame. */
const DIAGONAL = Math.hypot(36, 24)
/**
 * Width in millimetres of a sensor of the picture's shape whose diagonal is that of 35 mm film: goes with
 * focalLength35.
 */
export const sensorWidth35 = (width: number, height: number): number => (DIAGONAL * width) / Math.hypot(width, height)
