// Files that a shot refers to: pictures, clips, and how they are read.
import { ENCODING_IDS } from '../../colour/encoding'
import { MAXIMUM_FRAMES } from '../clip'
import { blob, choice, flag, number, optional, text, thing, value, whole, type ValueOf } from '../../declare/field'

const FILE = { blob: blob(), name: text(1, 300) }
export const BLOB_REFERENCE = thing(FILE)
export const SIZE = { width: whole(1, 32768), height: whole(1, 32768) }
export const RATE = thing({ numerator: whole(1, 1000000), denominator: whole(1, 1000000) })

/** What a picture file is, from its content. */
const FACTS = thing({
  format: choice(['png', 'jpeg', 'tiff', 'hdr', 'exr']),
  bits: choice([8, 16, 32]),
  float: flag(),
  alpha: choice(['none', 'opaque', 'straight', 'premultiplied', 'unclear']),
  focalLength: optional(number(1, 5000)),
  focalLength35: optional(number(1, 5000)),
})

/** Which frames of a clip stand at which of the shot. */
export const TIMING = thing({
  /** Frame of the shot where the first used frame of the clip stands. */
  start: whole(-1e6, 1e6),
  /** First and last frame of the clip that are used, counted from 0. */
  from: whole(0, MAXIMUM_FRAMES),
  to: whole(0, MAXIMUM_FRAMES),
  /** 1 as it is, 0.5 half as fast. */
  speed: number(0.001, 1000),
  reverse: flag(),
  /** Before its first and after its last frame. */
  ends: choice(['nothing', 'hold', 'loop', 'mirror']),
  /** Between two frames: a mix of both, or the earlier one. */
  blend: flag(),
  /** frames: one frame of the clip a frame of the shot; time: by the clock, when the rates differ. */
  conform: choice(['frames', 'time']),
  /** The frame of the clip at each frame of the shot, in place of speed and direction. */
  retime: optional(value(0, MAXIMUM_FRAMES, { label: 'frame of the clip' })),
  /** This frame of the clip, for as long as the clip lasts. */
  frozen: optional(whole(0, MAXIMUM_FRAMES)),
})

/** A picture that moves: its blob is the list of its frames (clip.ts). */
export const CLIP = thing({
  count: whole(1, MAXIMUM_FRAMES),
  /** As it is read; the file's own unless someone said otherwise. */
  rate: RATE,
  timing: TIMING,
  pixelAspect: RATE,
  /** Number of the first frame as the files count. */
  first: whole(-1e9, 1e9),
  timecode: optional(text(0, 40)),
  /** What was found about it: missing frames (how many, and their numbers in words), fields, uneven times. */
  gaps: whole(0, MAXIMUM_FRAMES),
  missing: optional(text(1, 400)),
  interlaced: optional(flag()),
  uneven: optional(flag()),
  /** The video it was made from, to be read again in another way. */
  made: optional(BLOB_REFERENCE),
})

export const PICTURE_FIELDS = {
  ...FILE,
  encoding: choice(ENCODING_IDS, { label: 'encoding' }),
  alpha: choice(['none', 'straight', 'premultiplied', 'ignore'], { label: 'alpha' }),
  ...SIZE,
  /** Why the encoding was guessed, until someone chose. */
  guessed: optional(text(0, 300)),
  facts: optional(FACTS),
  clip: optional(CLIP),
  /** Read through this .cube table, whose colours come out in the encoding. */
  lut: optional(BLOB_REFERENCE),
}
export const PICTURE = thing(PICTURE_FIELDS)

export type BlobReference = ValueOf<typeof BLOB_REFERENCE>
export type ClipTiming = ValueOf<typeof TIMING>
export type ClipUse = ValueOf<typeof CLIP>
export type PictureReference = ValueOf<typeof PICTURE>
