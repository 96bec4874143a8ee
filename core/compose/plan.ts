// From a shot document to the picture that is asked for, as nodes: pure, nothing is computed here.
import { moved } from '../engine/box'
import { kernelNode, type Node } from '../plan/node'
import type { Picture } from '../plan/picture'
import { boxOfSize, type Size } from '../plan/size'
import { lensOf } from '../shot/lens'
import { passFileOf } from '../shot/tree'
import { TintTowards } from '../treatment/haze'
import { Grey, ShareOf, Shift, TurnOver } from '../../kernels/records'
import type { Files } from './files'
import { black, builtPicture, passesFor, plateAsTaken, plateNode, treatedBy } from './layers'
import { frameSize, workSize, type Request } from './request'
import { showPass } from './showpass'
import { throughLens } from './throughlens'
import { matteNode } from './mattes'
import { treated, type TreatedBy } from './treatments'

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
  if (show.kind === 'comes') {
    const look: TreatedBy['look'] = { line: show.line }
    finishedPicture(files, request, frame, size, look)
    return look.found?.comes ? cropped(look.found.comes, look.found.size, frame) : black(frame)
  }
  if (show.kind === 'matte') return shownMatte(files, request, show, frame, size)
  if (show.kind === 'build') return cropped(builtPicture(files, request, size).colour, size, frame)
  return finishedPicture(files, request, frame, size).colour
}

function shownMatte(
  files: Files,
  request: Request,
  { matte: slip, line, of, as = 'grey' }: Extract<Request['show'], { kind: 'matte' }>,
  frame: Size,
  size: Size,
): Node {
  // Made of the picture that comes to its line; of what is built, where it is of none
  const look: TreatedBy['look'] = { line: line ?? '', slip }
  const finished = finishedPicture(files, request, frame, size, look)
  if (!line) {
    const passes = passesFor(files, request, size, passFileOf(request.document, of))
    const built = builtPicture(files, request, size)
    const by = { frame: request.frame, size, passes, relative: false, mattes: request.document.mattes }
    const matte = matteNode(slip, built, by)
    if (matte && matte !== 'everywhere') look.found = { matte, size }
  }
  if (!look.found?.matte) return black(frame)
  const shown = cropped(grey(look.found.matte), look.found.size, frame)
  if (as === 'grey') return shown
  const share = kernelNode(ShareOf, { source: shown, which: 0 }, { window: shown.window })
  // Over the picture that it works in: a line of the finish lies in the frame as it is sent, all else in the build
  const ground =
    look.found.size === frame ? finished.colour : cropped(builtPicture(files, request, size).colour, size, frame)
  const veil = { source: ground, strength: 1, straight: 0 }
  const { window } = ground
  return as === 'veil'
    ? kernelNode(TintTowards, { ...veil, share, tint: VEIL, amount: 0.5 }, { window })
    : kernelNode(
        TintTowards,
        { ...veil, share: kernelNode(TurnOver, { source: share }, { window: share.window }), tint: BEHIND, amount: 1 },
        { window },
      )
}
/** Scene-linear: of the veil over what a matte holds, and of what a picture is cut out over. */
const VEIL = [0.62, 0.05, 0.03] as const
const BEHIND = [0.18, 0.18, 0.18] as const

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
