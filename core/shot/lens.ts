// The lens of a shot, and the straight frame on which its picture is worked on.
import { overscanOf, straighten, type Lens, type Overscan } from '../match/lens'
import type { Camera } from '../scene/scene'
import { isCurve, valueAt } from '../time/curve'
import type { ShotDocument } from './document'

/** Whether the lens is taken out of the plate. */
export const hasLens = ({ lens }: ShotDocument): boolean => !!lens?.on && (lens.k1 !== 0 || lens.k2 !== 0)
/** The lens of a frame when it is taken out of the plate: a zoom changes it as it goes. */
export const lensOf = (document: ShotDocument, frame: number): Lens | undefined =>
  hasLens(document) ? { k1: valueAt(document.lens!.k1, frame), k2: valueAt(document.lens!.k2, frame) } : undefined

/** At most so many frames are looked at for the largest bend. */
const MOST_LOOKS = 400
/** The frame one works on: large enough for every frame of the shot, so that all of them have one size. */
export function workingFrame(document: ShotDocument): Overscan {
  const {
    frame,
    lens,
    frames: { first, last },
  } = document
  if (!hasLens(document) || !(isCurve(lens!.k1) || isCurve(lens!.k2))) return overscanOf(lensOf(document, first), frame)
  // The lower its terms the farther in a place is bent, so the lowest of each leave room for all
  const lowest = { k1: Infinity, k2: Infinity }
  const step = Math.max(1, (last - first) / MOST_LOOKS)
  for (let at = first; at <= last; at += step) {
    const { k1, k2 } = lensOf(document, at)!
    lowest.k1 = Math.min(lowest.k1, k1)
    lowest.k2 = Math.min(lowest.k2, k2)
  }
  return overscanOf(lowest, frame)
}

/** The camera that sees the working frame where this one sees the frame. */
export function widened(camera: Camera, document: ShotDocument): Camera {
  const { width, height } = workingFrame(document)
  const { frame } = document
  return beyondFrame(camera, frame, [(width - frame.width) / 2, (height - frame.height) / 2])
}
/** The camera that sees so many pixels more to each side than this one. */
export function beyondFrame(
  camera: Camera,
  frame: { width: number; height: number },
  [across, down]: readonly [number, number] = [0, 0],
): Camera {
  if (!across && !down) return camera
  const [width, height] = [frame.width + 2 * across, frame.height + 2 * down]
  return {
    ...camera,
    sensorWidth: (camera.sensorWidth * width) / frame.width,
    shiftX: (camera.shiftX * frame.width) / width,
    shiftY: (camera.shiftY * frame.height) / height,
  }
}

/** A place of the sent frame (0..1) in the straight frame (0..1), at a frame of the shot. */
export function straightPlace(document: ShotDocument, at: number, u: number, v: number): [number, number] {
  const lens = lensOf(document, at)
  const { width, height } = document.frame
  if (!lens) return [u, v]
  const [x, y] = straighten(lens, document.frame, [u * width, v * height])
  return [x / width, y / height]
}
