// What does not fit about a picture as it is read, in words, each with its mend.
import { encodingOf } from '../colour/encoding'
import type { AlphaKind } from '../formats/picture/picture'
import type { PictureReference, ShotDocument } from './document'

export interface PictureFault {
  /** A whole sentence. */
  text: string
  /** What the mend's button says, and the values it puts into the reference; none where nothing can be changed. */
  mend?: { label: string; values: Partial<Pick<PictureReference, 'encoding' | 'alpha'>> }
}

/** Encodings that hold light as it is. */
const LIGHT = ['linear', 'acescg', 'aces2065']

/** Faults of reading: encoding against the kind of file, alpha against what its edges show, few bits. */
export function readingFaults(picture: PictureReference): PictureFault[] {
  const found: PictureFault[] = [], { facts, encoding, alpha } = picture
  if (encoding === 'data') found.push({ text: 'A picture read as data is not converted to light; it is shown as its numbers.', mend: { label: facts?.float ? 'Read as linear' : 'Read as sRGB', values: { encoding: facts?.float ? 'linear' : 'srgb' } } })
  if (!facts) return found
  if (facts.float && encodingOf(encoding).display) found.push({ text: 'A floating-point picture read as display-encoded looks dark and contrasty.', mend: { label: 'Read as linear', values: { encoding: 'linear' } } })
  if (!facts.float && LIGHT.includes(encoding)) found.push({ text: `A ${facts.bits}-bit picture read as linear light looks washed out, unless it was written so.`, mend: { label: 'Read as sRGB', values: { encoding: 'srgb' } } })
  found.push(...alphaFaults(facts.alpha, alpha))
  if (facts.bits === 8 && LIGHT.includes(encoding)) found.push({ text: '8 bits of linear light band in the shadows whatever is done to them.' })
  return found
}

function alphaFaults(look: string, alpha: AlphaKind): PictureFault[] {
  if (look === 'straight' && alpha === 'premultiplied') return [{ text: 'Its soft edges show straight alpha, but it is read as premultiplied: bright rims.', mend: { label: 'Read as straight', values: { alpha: 'straight' } } }]
  if (look === 'premultiplied' && alpha === 'straight') return [{ text: 'Its soft edges show premultiplied alpha, but it is read as straight: dark rims.', mend: { label: 'Read as premultiplied', values: { alpha: 'premultiplied' } } }]
  if (look === 'none' && (alpha === 'straight' || alpha === 'premultiplied')) return [{ text: 'It is read with alpha, but the file has none: it covers the whole of its area.', mend: { label: 'Read without', values: { alpha: 'none' } } }]
  if ((look === 'straight' || look === 'premultiplied') && alpha === 'none') return [{ text: 'The file has alpha that cuts something out, but it is read without.', mend: { label: `Read as ${look}`, values: { alpha: look } } }]
  return []
}

export interface FrameFault { text: string; label: string; frame: { width: number; height: number } }

/** Faults of the plate's size and shape against the frame and the passes. */
export function frameFaults(document: ShotDocument): FrameFault[] {
  const found: FrameFault[] = [], { plate, frame, passes: { file } } = document
  if (!plate) return found
  const { width, height } = plate
  if (width !== frame.width || height !== frame.height) found.push({ text: `The plate is ${width} x ${height}, the frame ${frame.width} x ${frame.height}.`, label: 'Frame as the plate', frame: { width, height } })
  // A pixel of rounding is no other shape
  if (file && Math.abs(file.width / file.height - width / height) > 2 / Math.min(file.height, height)) found.push({ text: `The passes (${file.width} x ${file.height}) have another shape than the plate: they will not line up.`, label: 'Frame as the passes', frame: { width: file.width, height: file.height } })
  return found
}
