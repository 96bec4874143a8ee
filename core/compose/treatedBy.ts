// What lines are laid with, and the passes that they and layers read.
import type { Picture } from '../plan/picture'
import type { Size } from '../plan/size'
import { PassNodes } from '../render/passnodes'
import type { PassFileReference } from '../shot/document'
import { beyondFrame } from '../shot/lens'
import { cameraAt } from '../shot/scene'
import type { Camera } from '../scene/scene'
import type { Files } from './files'
import { lightsOf, surroundingLight } from './lights'
import type { MatteBy } from './mattes'
import { straightened } from './plates'
import type { Request } from './request'
import type { TreatedBy } from './treatments'

/** The passes of a file (the shot's, where none is given) at the frame and size of a request. Throws StillPacked. */
export function passesFor(
  files: Files,
  { document, frame }: Request,
  size: Size,
  file: PassFileReference | null | undefined = document.passes.file,
): PassNodes | undefined {
  if (!file) return undefined
  const camera = (): Camera => beyondFrame(cameraAt(document.scene.camera, frame), document.frame, file.margin)
  return new PassNodes(files.open(file, document.frame, frame), size, camera)
}

/** What lines are laid with. picture: what they are laid on, of a request for another frame. */
export function treatedBy(
  files: Files,
  request: Request,
  size: Size,
  relative: boolean,
  look: TreatedBy['look'],
  picture: (request: Request) => Picture,
  passesAt: (request: Request) => PassNodes | undefined = there => passesFor(files, there, size),
  taken: (request: Request) => MatteBy['taken'] = straightened(files, size),
): TreatedBy {
  const { document, frame, without } = request
  return {
    frame,
    size,
    frames: document.frames,
    passes: passesAt(request),
    camera: (at = frame) => beyondFrame(cameraAt(document.scene.camera, at), document.frame, [size.left, size.top]),
    lights: () => lightsOf(files, document, frame),
    surroundings: () => surroundingLight(files, document, frame),
    mattes: document.mattes,
    without: without?.id,
    relative,
    look,
    taken: taken(request),
    table: ({ blob }) => ({ lut: files.table(blob), key: blob }),
    small: ({ blob }) => ({ ...files.small(blob), key: blob }),
    at: other => {
      const there = { ...request, frame: other }
      return {
        picture: picture(there),
        by: treatedBy(files, there, size, relative, undefined, picture, passesAt, taken),
      }
    },
  }
}
