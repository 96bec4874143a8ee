// Passes of a range of frames: which file stands for a frame.
import { nearestThere } from './clip'
import type { PassFileReference } from './document'

/**
 * The file of a frame, or of the nearest that is rendered (the earlier of two); whether it is that frame's own. One
 * picture stands for all frames.
 */
export function passBlobAt({ blob, frames }: PassFileReference, frame: number): { blob: string; own: boolean } {
  if (!frames) return { blob, own: true }
  const at = Math.round(frame) - frames.first
  const within = Math.min(frames.blobs.length - 1, Math.max(0, at))
  const found = nearestThere(frames.blobs, within)
  return { blob: found?.blob ?? blob, own: found?.index === at }
}

/** What is rendered of a range so far: what the file of a frame is, and each frame's blob. */
export interface RangeMade {
  file: PassFileReference
  blobs: Record<string, string>
}

export function joinFrames({ file, blobs }: RangeMade, first: number, last: number): PassFileReference {
  const list = Array.from({ length: last - first + 1 }, (_, i) => blobs[first + i] ?? null)
  return {
    ...file,
    blob: list.find(blob => blob !== null) ?? file.blob,
    name: `passes of frames ${first} to ${last}`,
    frames: { first, blobs: list },
  }
}
