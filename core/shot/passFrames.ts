// Passes of a range of frames: which file stands for a frame.
import type { ShotDocument } from './document'

export type PassFileReference = NonNullable<ShotDocument['passes']['file']>
/** Frames that one job renders at most. */
export const MAXIMUM_RANGE = 20000

/** The file of a frame, or of the nearest that is rendered (the earlier of two); whether it is that frame's own. One picture stands for all frames. */
export function passBlobAt(file: PassFileReference, frame: number): { blob: string; own: boolean } {
  const { frames } = file
  if (!frames) return { blob: file.blob, own: true }
  const at = Math.round(frame) - frames.first, there = (index: number): string | null => frames.blobs[index] ?? null
  for (let distance = 0; distance <= frames.blobs.length + Math.abs(at); distance++) {
    const blob = there(at - distance) ?? there(at + distance)
    if (blob) return { blob, own: distance === 0 }
  }
  return { blob: file.blob, own: false }
}

/** The files of a range put together; `made` has those that are there by frame. undefined when there is none. */
export function joinFrames(made: ReadonlyMap<number, PassFileReference>, first: number, last: number): PassFileReference | undefined {
  const blobs = Array.from({ length: last - first + 1 }, (_, i) => made.get(first + i)?.blob ?? null), begin = [...made.keys()].sort((a, b) => a - b)[0]
  if (begin === undefined) return undefined
  const file = made.get(begin)!
  return first === last ? file : { ...file, name: `passes of frames ${first} to ${last}`, frames: { first, blobs } }
}
