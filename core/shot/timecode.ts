// Timecode of a shot: that of its footage where it has one, else from midnight at its first frame.
import { canDropFrames, frameOfTimecode, timecode } from '../time/rate'
import type { ShotDocument } from './document'

export function timecodeAt(document: ShotDocument, frame: number): string {
  const { rate, frames, plate } = document
  const clip = plate?.clip
  if (clip?.timecode)
    try {
      const { frame: first, drop } = frameOfTimecode(clip.timecode, rate)
      return timecode(Math.max(0, first + frame - clip.timing.start), rate, drop && canDropFrames(rate))
    } catch {
      // One that does not exist at this rate: counted from the shot's first frame
    }
  return timecode(Math.max(0, frame - frames.first), rate)
}
