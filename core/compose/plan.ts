// From a shot document to the picture that is asked for, as nodes: pure, nothing is computed here.
import { moved } from '../engine/box'
import { kernelNode, type Node } from '../plan/node'
import type { Picture } from '../plan/picture'
import { boxOfSize, type Size } from '../plan/size'
import { lensOf } from '../shot/lens'
import { passFileOf } from '../shot/tree'
import { Grey, Shift } from '../../kernels/records'
import type { Files } from './files'
import { black, builtPicture, passesFor, plateAsTaken, plateNode, treatedBy } from './layers'
import { frameSize, workSize, type Request } from './request'
import { showPass } from './showpass'
import { throughLens } from './throughlens'
import { namedNode, treated, type TreatedBy } from './treatments'

/** What is to be shown, in pixels of the frame. Throws StillPacked. */
export function shownNode(files: Files, request: Request): Node {
  const frame = frameSize(request)
  const size = workSize(request)
  const { show } = request
  if (show.kind === 'plate')
    return show.straight ? cropped(plateNode(files, request, size), size, frame) : plateAsTaken(files, request, frame)
  if (show.kind === 'pass') {
    const passes = passesFor(files, request, size)
    return passes ? cropped(showPass(passes, show), size, frame) : black(frame)
  }
  if (show.kind === 'matte' && show.matte.kind === 'names') {
    const passes = passesFor(files, request, size, passFileOf(request.document, show.of))
    return passes ? cropped(grey(namedNode(show.matte, passes, false)), size, frame) : black(frame)
  }
  if (show.kind === 'matte') {
    // Made of the picture that comes to its line
    const look: TreatedBy['look'] = { line: show.line ?? '' }
    finishedPicture(files, request, frame, size, look)
    return look.found ? cropped(grey(look.found.matte), look.found.size, frame) : black(frame)
  }
  if (show.kind === 'build') return cropped(builtPicture(files, request, size).colour, size, frame)
  return finishedPicture(files, request, frame, size).colour
}

/** What is built, seen through the lens. */
function beforeFinish(files: Files, request: Request, frame: Size, size: Size, look?: TreatedBy['look']): Picture {
  const built = builtPicture(files, request, size, look)
  const lens = lensOf(request.document, request.frame)
  if (!lens) return built
  const bent = (node: Node): Node => throughLens(node, size, frame, lens, true)
  return {
    colour: bent(built.colour),
    depth: () => bent(built.depth()),
    // What is said of distances is a share by now: it is bent as smoothly as the colour is
    byDepth: say => throughLens(built.byDepth(say), size, frame, lens, true, true),
  }
}

function finishedPicture(files: Files, request: Request, frame: Size, size: Size, look?: TreatedBy['look']): Picture {
  const { document, without } = request
  const finished = beforeFinish(files, request, frame, size, look)
  if (without?.treatments && !look) return finished
  // Mattes lie in the frame as it is sent
  return treated(
    finished,
    document.finish,
    treatedBy(files, request, frame, false, look, other => beforeFinish(files, other, frame, size)),
  )
}

export const grey = (source: Node): Node => kernelNode(Grey, { source }, { window: source.window })

/** What of the working frame lies in the frame. */
function cropped(source: Node, size: Size, frame: Size): Node {
  if (size.width === frame.width && size.height === frame.height) return source
  const dx = size.left / size.shrink
  const dy = size.top / size.shrink
  return kernelNode(Shift, { source, dx, dy }, { window: boxOfSize(frame), needs: area => moved(area, dx, dy) })
}
