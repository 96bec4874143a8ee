// What becomes of a shot when a picture or a clip comes into it.
import { perSecond } from '../time/rate'
import { addRow } from './rows'
import { setFrame, setRate } from './values'
import { identifier, LAID, newLayer, type PictureLayer, type PictureReference, type ShotDocument } from './document'

/** Size at which a picture's pixels are square. */
export function squareSize({ width, height, clip }: PictureReference): { width: number; height: number } {
  return { width: Math.max(1, Math.round(width * (clip ? perSecond(clip.pixelAspect) : 1))), height }
}

/**
 * Makes it the plate. The frame follows as long as nothing is rendered; a still shot takes the length and the rate of a
 * clip.
 */
export function bringPlate(document: ShotDocument, plate: PictureReference): void {
  const still = document.frames.first === document.frames.last
  document.plate = plate
  if (!document.passes.file) setFrame(document, squareSize(plate))
  if (!plate.clip || !still) return
  document.frames = { first: 1, last: plate.clip.count }
  // Numbered files hold no rate: they were read at the shot's
  if (plate.clip.made) setRate(document, plate.clip.rate)
}

/**
 * Adds it as a layer in the middle of the frame, whole within it, `distance` metres away; a clip starts at `frame`.
 */
export function bringLayer(
  document: ShotDocument,
  picture: PictureReference,
  frame: number,
  id = identifier(),
  distance = 8,
): PictureLayer {
  const { width, height } = document.frame
  const own = squareSize(picture)
  return addRow(document.build.layers, {
    ...newLayer(id, picture.name.replace(/\.\w+$/, '').slice(0, 200) || 'picture'),
    ...LAID,
    kind: 'picture' as const,
    picture: picture.clip
      ? { ...picture, clip: { ...picture.clip, timing: { ...picture.clip.timing, start: frame } } }
      : picture,
    distance,
    x: width / 2,
    y: height / 2,
    scale: Math.min(1, height / own.height, width / own.width),
    rotation: 0,
  })
}

/** The same clip read again in another way (steady, whole frames): how it is read and timed stays as far as it fits. */
export function bringAgain(before: PictureReference, after: PictureReference): PictureReference {
  if (!before.clip || !after.clip) return after
  const timing = {
    ...before.clip.timing,
    to:
      before.clip.timing.to >= before.clip.count - 1
        ? after.clip.count - 1
        : Math.min(before.clip.timing.to, after.clip.count - 1),
    from: Math.min(before.clip.timing.from, after.clip.count - 1),
  }
  return { ...after, encoding: before.encoding, alpha: before.alpha, clip: { ...after.clip, timing } }
}
