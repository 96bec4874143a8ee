// A clip: frames in the blob store, listed in a small JSON file of its own (the manifest), which the document names
// like a picture.
import { BadInput, MAXIMUM_SIDE } from '../formats/errors'
import { rateOf, type Rate } from '../time/rate'

export const MAXIMUM_FRAMES = 20000

export interface ClipManifest {
  northmist: 'clip'
  version: 1
  name: string
  width: number
  height: number
  rate: Rate
  /** Number of the first frame as the files or the maker count. */
  first: number
  /** Blobs of the frames in order; null where one is missing. */
  frames: (string | null)[]
  /** Small 8-bit pictures of the frames, for playing; never for what is sent. */
  proxies?: (string | null)[]
  /** What the numbers of the small pictures went through: PQ (ST 2084) for floats; nothing for codes. */
  proxyCurve?: 'pq'
  /** Start as written in the file, and whether its count drops numbers. */
  timecode?: string
  /** Width of a pixel to its height. */
  pixelAspect: Rate
  source: ClipSource
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
  /** What was asked for when it was brought in. */
  steady?: boolean
  wholeFrames?: boolean
}

/** Reads a manifest. Throws BadInput with what is wrong. */
export function readManifest(bytes: Uint8Array): ClipManifest {
  const wrong = (what: string): never => {
    throw new BadInput(`The list of this clip’s frames is damaged: ${what}.`)
  }
  if (bytes.length > MAXIMUM_FRAMES * 128) wrong('it is too long')
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
  if (
    !Array.isArray(value.frames) ||
    value.frames.length < 1 ||
    value.frames.length > MAXIMUM_FRAMES ||
    value.frames.some(frame => frame !== null && !/^[0-9a-f]{64}$/.test(String(frame)))
  )
    wrong('its frames are not named')
  if (value.frames!.every(frame => frame === null)) wrong('it has no frame')
  if (
    value.proxies !== undefined &&
    (!Array.isArray(value.proxies) ||
      value.proxies.length !== value.frames!.length ||
      value.proxies.some(
        (proxy, i) =>
          (proxy === null) !== (value.frames![i] === null) || (proxy !== null && !/^[0-9a-f]{64}$/.test(String(proxy))),
      ))
  )
    wrong('its proxies are not named')
  if (value.proxyCurve !== undefined && value.proxyCurve !== 'pq') wrong('its proxies are of an unknown kind')
  try {
    rateOf(value.rate!.numerator, value.rate!.denominator)
    rateOf(value.pixelAspect!.numerator, value.pixelAspect!.denominator)
  } catch {
    wrong('its rate is none')
  }
  if (!whole(value.first, -1e9, 1e9) || !value.source) wrong('it is not whole')
  return value as ClipManifest
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
