// What does not fit about a picture as it is read, in words, each with its mend.
import { encodingOf } from '../colour/encoding'
import type { AlphaKind } from '../formats/picture/picture'
import { driftAfter, rateText, sameRate, type Rate } from '../time/rate'
import { squareSize } from './bring'
import type { PictureReference, ShotDocument } from './document'
import { inOrder } from './rows'

export interface PictureFault {
  /** A whole sentence. */
  text: string
  /**
   * What can be done about it, each with what its button says: other values of the reference, another rate of the shot,
   * or reading the video again.
   */
  mends: {
    label: string
    values?: Partial<Pick<PictureReference, 'encoding' | 'alpha' | 'clip'>>
    rate?: Rate
    again?: { steady?: boolean; wholeFrames?: boolean }
  }[]
}

/** Encodings that hold light as it is. */
const LIGHT = ['linear', 'acescg', 'aces2065']

/** Faults of reading: encoding against the kind of file, alpha against what its edges show, few bits. */
export function readingFaults(picture: PictureReference): PictureFault[] {
  const found: PictureFault[] = []
  const { facts, encoding, alpha } = picture
  if (encoding === 'data')
    found.push({
      text: 'A picture read as data is not converted to light; it is shown as its numbers.',
      mends: [
        {
          label: facts?.float ? 'Read as linear' : 'Read as sRGB',
          values: { encoding: facts?.float ? 'linear' : 'srgb' },
        },
      ],
    })
  if (!facts) return found
  // Through a table the codes may be anything
  if (picture.lut) return [...found, ...alphaFaults(facts.alpha, alpha)]
  if (facts.float && encodingOf(encoding).display)
    found.push({
      text: 'A floating-point picture read as display-encoded looks dark and contrasty.',
      mends: [{ label: 'Read as linear', values: { encoding: 'linear' } }],
    })
  if (!facts.float && LIGHT.includes(encoding))
    found.push({
      text: `A ${facts.bits}-bit picture read as linear light looks washed out, unless it was written so.`,
      mends: [
        {
          label: picture.clip?.made ? 'Read as Rec.709' : 'Read as sRGB',
          values: { encoding: picture.clip?.made ? 'rec709' : 'srgb' },
        },
      ],
    })
  found.push(...alphaFaults(facts.alpha, alpha))
  if (facts.bits === 8 && LIGHT.includes(encoding))
    found.push({ text: '8 bits of linear light band in the shadows whatever is done to them.', mends: [] })
  return found
}

function alphaFaults(look: string, alpha: AlphaKind): PictureFault[] {
  if (look === 'straight' && alpha === 'premultiplied')
    return [
      {
        text: 'Its soft edges show straight alpha, but it is read as premultiplied: bright rims.',
        mends: [{ label: 'Read as straight', values: { alpha: 'straight' } }],
      },
    ]
  if (look === 'premultiplied' && alpha === 'straight')
    return [
      {
        text: 'Its soft edges show premultiplied alpha, but it is read as straight: dark rims.',
        mends: [{ label: 'Read as premultiplied', values: { alpha: 'premultiplied' } }],
      },
    ]
  if (look === 'none' && (alpha === 'straight' || alpha === 'premultiplied'))
    return [
      {
        text: 'It is read with alpha, but the file has none: it covers the whole of its area.',
        mends: [{ label: 'Read without', values: { alpha: 'none' } }],
      },
    ]
  if ((look === 'straight' || look === 'premultiplied') && alpha === 'none')
    return [
      {
        text: 'The file has alpha that cuts something out, but it is read without.',
        mends: [{ label: `Read as ${look}`, values: { alpha: look } }],
      },
    ]
  return []
}

/** Faults of a clip in its shot: rate with the drift it causes, missing frames, fields, uneven times. */
export function clipFaults(document: ShotDocument, picture: PictureReference): PictureFault[] {
  const { clip } = picture
  const found: PictureFault[] = []
  if (!clip) return found
  if (!sameRate(clip.rate, document.rate) && clip.timing.conform === 'frames') {
    const last = document.frames.last
    const drift = driftAfter(last - clip.timing.start, clip.rate, document.rate)
    const frames = Math.abs(drift)
    const mends: PictureFault['mends'] = [
      { label: 'Play it by the clock', values: { clip: { ...clip, timing: { ...clip.timing, conform: 'time' } } } },
      { label: `It is ${rateText(document.rate)}`, values: { clip: { ...clip, rate: document.rate } } },
    ]
    if (picture === document.plate) mends.unshift({ label: `Shot at ${rateText(clip.rate)}`, rate: clip.rate })
    found.push({
      text: `Its rate is ${rateText(clip.rate)}, the shot’s ${rateText(document.rate)}: counted frame for frame it is ${frames < 0.05 ? 'still in step' : `${frames.toFixed(1)} frames ${drift > 0 ? 'ahead' : 'behind'}`} by frame ${last}.`,
      mends,
    })
  }
  if (clip.gaps)
    found.push({
      text: `${clip.gaps === 1 ? 'Frame' : 'Frames'} ${clip.missing} ${clip.gaps === 1 ? 'is' : 'are'} missing; the nearest one stands in.`,
      mends: [],
    })
  if (clip.interlaced)
    found.push({
      text: 'It is made of fields: moving edges comb.',
      mends: [{ label: 'Make whole frames', again: { wholeFrames: true } }],
    })
  if (clip.uneven)
    found.push({
      text: 'Its frames are not evenly spaced in time; frame for frame it runs unevenly.',
      mends: [{ label: `Make it steady at ${rateText(clip.rate)}`, again: { steady: true } }],
    })
  return found
}

/** Whether there are things that would be seen and nothing lights them. lights: of the scene's file. */
export function inTheDark(
  { scene }: ShotDocument,
  lights: readonly string[],
  things: readonly { role: string; absent: boolean; shines: boolean }[],
): boolean {
  const there = things.filter(thing => !thing.absent)
  return (
    there.some(thing => thing.role === 'object') &&
    !scene.environment &&
    !(scene.fileLights && lights.length) &&
    !inOrder(scene.lights).some(light => light.on) &&
    !there.some(thing => thing.shines)
  )
}

/** Whether things are lit, and nothing catches the shadows that they throw. */
export const shadowsFallNowhere = (
  document: ShotDocument,
  lights: readonly string[],
  things: readonly { role: string; absent: boolean; shines: boolean }[],
): boolean =>
  things.some(thing => thing.role === 'object' && !thing.absent) &&
  !things.some(thing => thing.role === 'catcher' && !thing.absent) &&
  !inTheDark(document, lights, things)

export interface FrameFault {
  text: string
  label: string
  frame: { width: number; height: number }
}

/** Faults of the plate's size and shape against the frame and the passes. */
export function frameFaults(document: ShotDocument): FrameFault[] {
  const found: FrameFault[] = []
  const {
    plate,
    frame,
    passes: { file },
  } = document
  if (!plate) return found
  const { width, height } = squareSize(plate)
  if (width !== frame.width || height !== frame.height)
    found.push({
      text: `The plate is ${width} x ${height}, the frame ${frame.width} x ${frame.height}.`,
      label: 'Frame as the plate',
      frame: { width, height },
    })
  // A pixel of rounding is no other shape
  if (file && Math.abs(file.width / file.height - width / height) > 2 / Math.min(file.height, height))
    found.push({
      text: `The passes (${file.width} x ${file.height}) have another shape than the plate: they will not line up.`,
      label: 'Frame as the passes',
      frame: { width: file.width, height: file.height },
    })
  return found
}
