// A clip: frames listed in a small JSON file of its own (the manifest), which the document names like a picture.
// Numbered files are frames as they stand in the store; a video stays one file, with an index by which any frame is
// decoded from it when it is asked for.
import { BadInput, MAXIMUM_SIDE } from '../formats/errors'
import { rateOf, type Rate } from '../time/rate'

export const MAXIMUM_FRAMES = 20000
/** Bytes of a manifest. */
export const MAXIMUM_MANIFEST = MAXIMUM_FRAMES * 128

export interface ClipManifest {
  northmist: 'clip'
  version: 1
  name: string
  width: number
  height: number
  rate: Rate
  /** Number of the first frame as the files or the maker count. */
  first: number
  /** Names of the frames in order; null where one is missing. Those of a video follow from its index. */
  frames: (string | null)[]
  video?: VideoIndex
  /** Start as written in the file, and whether its count drops numbers. */
  timecode?: string
  /** Width of a pixel to its height. */
  pixelAspect: Rate
  source: ClipSource
}

/** Where the frames of a video are in its file. */
export interface VideoIndex {
  /** The file, in the store. */
  blob: string
  /** Ticks a second of its clock. */
  clock: Rate
  /** When each frame is shown, in ticks, ascending. */
  ticks: number[]
  /** Frames that can be decoded without those before them, ascending. */
  keys: number[]
  /** Frame that is shown at each place of the clip, where that is not each in turn. */
  shown?: number[]
  /** Matrix of its YUV in ffmpeg’s words; auto: as each frame says. */
  matrix: string
}

/** What the file said and what was found in it. */
export interface ClipSource {
  kind: 'sequence' | 'video'
  codec?: string
  pixelFormat?: string
  bits: number
  alpha: boolean
  transfer?: string
  primaries?: string
  /** Degrees that were undone. */
  rotation?: number
  interlaced?: boolean
  /** Frames are not evenly spaced: seconds of each from the first. */
  times?: number[]
  /** Frames that the file says it has, and has not. */
  lost?: number
  /** What was asked for when it was brought in. */
  steady?: boolean
  wholeFrames?: boolean
}

/** What the numbers of floats go through to fit the 8 bits of a small picture; codes stay as they are. */
export const SMALL_CURVE = 'pq'
/** The name of a clip’s frame at a place; small: a picture of 8 bits for playing, never for what is sent. */
export const clipFrame = (clip: string, at: number, small = false): string => `${clip}.${at}${small ? '.small' : ''}`
/** What such a name says; undefined for any other. */
export function parseClipFrame(name: string): { clip: string; at: number; small: boolean } | undefined {
  const found = /^([0-9a-f]{64})\.(\d{1,5})(\.small)?$/.exec(name)
  return found ? { clip: found[1]!, at: Number(found[2]), small: !!found[3] } : undefined
}

/** A manifest to be written: the frames of a video follow from its index. */
export type NewManifest = Omit<ClipManifest, 'frames'> & Partial<Pick<ClipManifest, 'frames'>>
/** The manifest as a file. */
export function writeManifest(manifest: NewManifest): Uint8Array {
  const { frames, ...rest } = manifest
  return new TextEncoder().encode(JSON.stringify(manifest.video ? rest : { ...rest, frames }))
}

/** Reads a manifest, stored under a name. Throws BadInput with what is wrong. */
export function readManifest(bytes: Uint8Array, name: string): ClipManifest {
  const wrong = (what: string): never => {
    throw new BadInput(`The list of this clip’s frames is damaged: ${what}.`)
  }
  if (bytes.length > MAXIMUM_MANIFEST) wrong('it is too long')
  let value: Partial<ClipManifest>
  try {
    value = JSON.parse(new TextDecoder().decode(bytes)) as Partial<ClipManifest>
  } catch {
    return wrong('it is no JSON')
  }
  if (value?.northmist !== 'clip' || value.version !== 1) wrong('it is no such list')
  const whole = (number: unknown, low: number, high: number): boolean =>
    Number.isInteger(number) && (number as number) >= low && (number as number) <= high
  if (!whole(value.width, 1, MAXIMUM_SIDE) || !whole(value.height, 1, MAXIMUM_SIDE)) wrong('it has no size')
  if (value.video) {
    const count = videoCount(value.video, whole)
    if (!count) wrong('its frames are not where it says')
    value.frames = Array.from({ length: count }, (_, at) => clipFrame(name, at))
  }
  const { frames } = value
  if (
    !Array.isArray(frames) ||
    frames.length < 1 ||
    frames.length > MAXIMUM_FRAMES ||
    (!value.video && frames.some(frame => frame !== null && !/^[0-9a-f]{64}$/.test(String(frame))))
  )
    return wrong('its frames are not named')
  if (frames.every(frame => frame === null)) wrong('it has no frame')
  try {
    rateOf(value.rate!.numerator, value.rate!.denominator)
    rateOf(value.pixelAspect!.numerator, value.pixelAspect!.denominator)
  } catch {
    wrong('its rate is none')
  }
  if (!whole(value.first, -1e9, 1e9) || !value.source) wrong('it is not whole')
  return value as ClipManifest
}

/** How many frames an index shows; 0 where it is not whole. */
function videoCount(
  { blob, clock, ticks, keys, shown, matrix }: VideoIndex,
  whole: (number: unknown, low: number, high: number) => boolean,
): number {
  const rises = (list: unknown, low: number, high: number, step: number): list is number[] =>
    Array.isArray(list) &&
    list.length > 0 &&
    list.length <= MAXIMUM_FRAMES &&
    list.every((value, i) => whole(value, i ? list[i - 1] + step : low, high))
  const sound =
    /^[0-9a-f]{64}$/.test(String(blob)) &&
    whole(clock?.numerator, 1, 2 ** 31) &&
    whole(clock.denominator, 1, 2 ** 31) &&
    /^[a-z0-9]{1,20}$/.test(String(matrix)) &&
    rises(ticks, -Number.MAX_SAFE_INTEGER, Number.MAX_SAFE_INTEGER, 1) &&
    rises(keys, 0, ticks.length - 1, 1) &&
    (shown === undefined || rises(shown, 0, ticks.length - 1, 0))
  return sound ? (shown ?? ticks).length : 0
}

/**
 * The frame that stands for a place: itself, or the nearest one that is there when it is missing (the earlier of two).
 */
export function frameThere(manifest: ClipManifest, index: number): { blob: string; index: number; missing: boolean } {
  const found = nearestThere(manifest.frames, Math.min(manifest.frames.length - 1, Math.max(0, index)))
  if (!found) throw new BadInput('The clip has no frame.')
  return found
}

/** In a list with gaps: what stands at a place, or nearest to it (the earlier of two). */
export function nearestThere(
  list: readonly (string | null)[],
  at: number,
): { blob: string; index: number; missing: boolean } | undefined {
  for (let distance = 0; distance < list.length; distance++) {
    for (const index of [at - distance, at + distance]) {
      const blob = list[index]
      if (blob) return { blob, index, missing: distance > 0 }
    }
  }
  return undefined
}
