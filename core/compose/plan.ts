// From a shot document to the picture that is asked for, as nodes: pure, nothing is computed here.
import { moved } from '../engine/box'
import { beyondBrought } from '../plan/beyond'
import { point } from '../formula/point'
import { grownMatte } from '../plan/grown'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { cutTo, type Picture } from '../plan/picture'
import { boxOfSize, type Size } from '../plan/size'
import { lensOf } from '../shot/lens'
import { passFileOf } from '../shot/tree'
import { TintTowards } from '../treatment/distanceTint'
import { shade } from '../../kernels/record'
import { Grey, JoinMattes, ShareOf, Shift, TurnOver } from '../../kernels/records'
import type { Files } from './files'
import { builtPicture } from './layers'
import { passesFor, treatedBy } from './treatedBy'
import { black, plateAsTaken, plateNode, straightened } from './plates'
import { frameSize, workSize, type Request } from './request'
import { showPass } from './showpass'
import { throughLens } from './throughlens'
import { HOW } from '../matte/join'
import { matteNode, type MatteBy } from './mattes'
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
  { matte: slip, line, of, as = 'grey', over = 'grey' }: Extract<Request['show'], { kind: 'matte' }>,
  frame: Size,
  size: Size,
): Node {
  // Made of the picture that comes to its line; of what is built, where it is of none
  const look: TreatedBy['look'] = { line: line ?? '', slip }
  const finished = finishedPicture(files, request, frame, size, look)
  if (!line) {
    const passes = passesFor(files, request, size, passFileOf(request.document, of))
    const built = builtPicture(files, request, size)
    const { frame, document } = request
    const taken = straightened(files, size)(request)
    const by: MatteBy = { frame, size, passes, relative: false, mattes: document.mattes, taken }
    const matte = matteNode(slip, built, by)
    if (matte && matte !== 'everywhere') look.found = { matte, size }
  }
  const ground = (isBuilt: boolean): Node =>
    isBuilt ? cropped(builtPicture(files, request, size).colour, size, frame) : finished.colour
  // Of what cannot be made, or holds everything, there is nothing to see over the picture
  if (!look.found?.matte) return as === 'grey' ? black(frame) : ground(false)
  const shown = cropped(grey(look.found.matte), look.found.size, frame)
  if (as === 'grey') return shown
  const share = kernelNode(ShareOf, { source: shown, which: 0 }, { window: shown.window })
  // Over the picture that it works in: a line of the finish lies in the frame as it is sent, all else in the build
  const under = ground(look.found.size !== frame)
  if (as === 'veil') return pointNode(TintTowards, whole(under), { share, tint: VEIL, amount: 0.5 })
  const turned = (source: Node): Node => kernelNode(TurnOver, { source }, { window: source.window })
  if (as === 'outline') {
    // Where it is both near what is in and near what is out
    const [inner, outer] = [grownMatte(share, LINE), grownMatte(turned(share), LINE)]
    const line = kernelNode(JoinMattes, { first: inner, second: outer, how: HOW.only }, { window: share.window })
    return pointNode(TintTowards, whole(under), { share: line, tint: OUTLINE, amount: 1 })
  }
  // A layer as the slip leaves it, anything else as much of it as that holds
  const { cut, size: own } = look.found
  const left = cut ? cropped(cut, own, frame) : cutTo(under, share)
  return over === 'checker'
    ? pointNode(OverChecker, whole(left), {})
    : pointNode(OverEven, whole(left), { ground: BEHIND[over] })
}
/** Scene-linear: of the veil over what a matte holds, of its outline, and of what a picture is cut out over. */
const VEIL = [0.62, 0.05, 0.03] as const
const OUTLINE = [1, 0.08, 0.04] as const
const BEHIND = { grey: [0.18, 0.18, 0.18], black: [0, 0, 0], white: [1, 1, 1] } as const
/** Pixels of an outline to each side. */
const LINE = 1
/** Squares of two greys, so many pixels wide. */
const SQUARE = 16
const OverChecker = point('OverChecker', {}, ({ colour, alpha, x, y }) => {
  const squares = x
    .times(1 / SQUARE)
    .floor()
    .plus(y.times(1 / SQUARE).floor())
    .times(0.5)
  const odd = squares.minus(squares.floor()).isAbove(0.25)
  const ground = odd.choose(alpha.terms.constant(0.32), alpha.terms.constant(0.1))
  return colour.map(channel => channel.plus(ground.times(ground.terms.constant(1).minus(alpha))))
})
const OverEven = point('OverEven', { ground: shade }, ({ colour, alpha, values: { ground } }) =>
  colour.map((channel, which) => channel.plus(ground[which].times(alpha.terms.constant(1).minus(alpha)))),
)

/** What is built, seen through the lens. */
function beforeFinish(files: Files, request: Request, frame: Size, size: Size, look?: TreatedBy['look']): Picture {
  const built = builtPicture(files, request, size, look)
  const lens = lensOf(request.document, request.frame)
  if (!lens) return built
  const bent = (node: Node): Node => throughLens(node, size, frame, lens, true)
  return {
    colour: bent(built.colour),
    depth: () => bent(built.depth()),
    motion: built.motion && (() => bent(built.motion!())),
    // What is said of distances is a share by now: it is bent as smoothly as the colour is
    byDepth: (say, parted) => throughLens(built.byDepth(say, parted), size, frame, lens, true, true),
    beyond: beyondBrought(built, bent, ({ depth, byDepth }) => ({
      depth: () => bent(depth()),
      byDepth: (say, parted) => throughLens(byDepth(say, parted), size, frame, lens, true, true),
    })),
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
    treatedBy(
      files,
      request,
      frame,
      false,
      look,
      other => beforeFinish(files, other, frame, size),
      undefined,
      there => reference => plateAsTaken(files, there, frame, reference),
    ),
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
