// The lens of a shot, and the straight frame on which its picture is worked on.
import { overscanOf, straighten, type Lens, type Overscan } from '../match/lens'
import type { Camera } from '../scene/scene'
import type { ShotDocument } from './document'

/** The lens when it is taken out of the plate. */
export const lensOf = ({ lens }: ShotDocument): Lens | undefined => lens?.on && (lens.k1 !== 0 || lens.k2 !== 0) ? { k1: lens.k1, k2: lens.k2 } : undefined

export const workingFrame = (document: ShotDocument): Overscan => overscanOf(lensOf(document), document.frame)

/** The camera that sees the working frame where this one sees the frame. */
export function widened(camera: Camera, document: ShotDocument): Camera {
  const { width, height } = workingFrame(document), { frame } = document
  return width === frame.width && height === frame.height ? camera : { ...camera, sensorWidth: camera.sensorWidth * width / frame.width, shiftX: camera.shiftX * frame.width / width, shiftY: camera.shiftY * frame.height / height }
}

/** A place of the sent frame (0..1) in the straight frame (0..1). */
export function straightPlace(document: ShotDocument, u: number, v: number): [number, number] {
  const lens = lensOf(document), { width, height } = document.frame
  if (!lens) return [u, v]
  const [x, y] = straighten(lens, document.frame, [u * width, v * height])
  return [x / width, y / height]
}
