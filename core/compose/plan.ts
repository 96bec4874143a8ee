// From a shot document to the picture that is asked for, as nodes: pure, nothing is computed here.
import { boxOf, common, grown, heightOf, moved, widthOf, type Box } from '../engine/box'
import { kernelNode, type Node } from '../plan/node'
import { atDistance, coveredBy, type Picture } from '../plan/picture'
import { within } from '../declare/values'
import { NO_DEPTH } from '../render/passes'
import { blendKernel } from '../layer/modes'
import { bend, straighten, type Lens as LensTerms } from '../match/lens'
import {
  isFlat,
  type FlatLayer,
  type MatteSettings,
  type PictureLayer,
  type RenderLayer,
  type ShotDocument,
} from '../shot/document'
import { lensOf, workingFrame } from '../shot/lens'
import { inOrder } from '../shot/rows'
import { valueAt } from '../time/curve'
import { perSecond } from '../time/rate'
import { Blend, Clear, Grey, Lens, LensSingle, Place, Shift, Wash } from '../../kernels/records'
import type { Files } from './files'
import { FAR, onGround, renderNode, sliceNode, throughAir, type RenderAt } from './renderlayer'
import { showPass } from './showpass'
import { boxOfSize, sized, type Size } from './size'
import { distancesOf, letterboxed, mappedBox, PassNodes, pictureNode } from './sources'
import { namedNode, treated, type TreatedBy } from './treatments'

export type Show =
  | { kind: 'finish' }
  | { kind: 'build' }
  | { kind: 'plate'; /** Without the bend of its lens, as one works on it. */ straight?: boolean }
  | { kind: 'pass'; id: string; near?: number; far?: number }
  | {
      kind: 'matte'
      matte: MatteSettings
      /** The line that it is of, for one made of the picture there. */ line?: string
    }

export interface Without {
  id?: string
  treatments?: boolean
  clean?: boolean
}

export interface Request {
  document: ShotDocument
  frame: number
  /** 1 full size, 2 half, 4 a quarter. */
  shrink: 1 | 2 | 4
  show: Show
  /** For playing: clips by their small pictures where they have them. */
  small?: boolean
  /** Left out for comparison: a treatment or layer by id, all treatments, or that noise is taken out. */
  without?: Without
}

/** The frame as it is sent. */
export const frameSize = ({ document, shrink }: Pick<Request, 'document' | 'shrink'>): Size =>
  sized({ ...document.frame, left: 0, top: 0 }, shrink)
/** The straight frame on which the build works: with room round it for what the lens will bend in. */
export const workSize = ({ document, shrink }: Pick<Request, 'document' | 'shrink'>): Size =>
  sized(workingFrame(document), shrink)

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
    const passes = passesFor(files, request, size)
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

const passesFor = (files: Files, { document, frame }: Request, size: Size): PassNodes | undefined => {
  const opened = files.passes(document, frame)
  return opened && new PassNodes(opened, size)
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

/** What lines are laid with. picture: what they are laid on, of a request for another frame. */
function treatedBy(
  files: Files,
  request: Request,
  size: Size,
  relative: boolean,
  look: TreatedBy['look'],
  picture: (request: Request) => Picture,
): TreatedBy {
  const { document, frame, without } = request
  return {
    frame,
    size,
    frames: document.frames,
    passes: passesFor(files, request, size),
    without: without?.id,
    relative,
    look,
    at: other => {
      const there = { ...request, frame: other }
      return { picture: picture(there), by: treatedBy(files, there, size, relative, undefined, picture) }
    },
  }
}

export const black = (size: Size): Node => kernelNode(Clear, {}, { window: boxOfSize(size) })
export const grey = (source: Node): Node => kernelNode(Grey, { source }, { window: source.window })

/** What of the working frame lies in the frame. */
function cropped(source: Node, size: Size, frame: Size): Node {
  if (size.width === frame.width && size.height === frame.height) return source
  const dx = size.left / size.shrink
  const dy = size.top / size.shrink
  return kernelNode(Shift, { source, dx, dy }, { window: boxOfSize(frame), needs: area => moved(area, dx, dy) })
}

/** Bent into the frame as the lens would have it, or straightened into the working frame. */
function throughLens(source: Node, from: Size, to: Size, lens: LensTerms, bent: boolean, smooth = false): Node {
  const middle = (size: Size): [number, number] => [
    (size.left + size.frameWidth / 2) / size.shrink,
    (size.top + size.frameHeight / 2) / size.shrink,
  ]
  const [middleX, middleY] = middle(to)
  const [sourceX, sourceY] = middle(from)
  const half = to.frameWidth / 2 / to.shrink
  const k1 = Math.fround(lens.k1)
  const k2 = Math.fround(lens.k2)
  const frame = { width: to.frameWidth / to.shrink, height: to.frameHeight / to.shrink }
  /** Where a place of the result comes from. */
  const origin = (x: number, y: number): [number, number] => {
    const place = [x - middleX + frame.width / 2, y - middleY + frame.height / 2] as const
    const [sx, sy] = (bent ? straighten : bend)({ k1, k2 }, frame, place)
    return [sx - frame.width / 2 + sourceX, sy - frame.height / 2 + sourceY]
  }
  const given = { source, middleX, middleY, half, sourceX, sourceY, sourceHalf: half, k1, k2, bent: bent ? 1 : 0 }
  const options = { window: boxOfSize(to), needs: (area: Box) => boxThrough(area, origin) }
  return source.pixel === 'single'
    ? kernelNode(LensSingle, { ...given, smooth: smooth ? 1 : 0, nothing: smooth ? 0 : NO_DEPTH }, options)
    : kernelNode(Lens, given, options)
}

const LOOK_EVERY = 8
/** What an area needs of its source where each pixel comes from a place that changes smoothly. */
function boxThrough(area: Box, origin: (x: number, y: number) => readonly [number, number]): Box {
  let box: Box | undefined
  const steps = (first: number, last: number): number[] => {
    const count = Math.max(1, Math.ceil((last - first) / LOOK_EVERY))
    return Array.from({ length: count + 1 }, (_, i) => first + ((last - first) * i) / count)
  }
  const look = (x: number, y: number): void => {
    const [sx, sy] = origin(x, y)
    box = box
      ? {
          left: Math.min(box.left, sx),
          top: Math.min(box.top, sy),
          right: Math.max(box.right, sx),
          bottom: Math.max(box.bottom, sy),
        }
      : { left: sx, top: sy, right: sx, bottom: sy }
  }
  for (const y of steps(area.top, area.bottom)) {
    look(area.left, y)
    look(area.right, y)
  }
  for (const x of steps(area.left, area.right)) {
    look(x, area.top)
    look(x, area.bottom)
  }
  // Beside the axes a side may bulge between two places; by far less than it changes from one to the next
  return grown(
    {
      left: Math.floor(box!.left),
      top: Math.floor(box!.top),
      right: Math.ceil(box!.right),
      bottom: Math.ceil(box!.bottom),
    },
    LOOK_EVERY,
  )
}

function plateNode(files: Files, request: Request, size: Size): Node {
  const frame = frameSize(request)
  const lens = lensOf(request.document, request.frame)
  const taken = plateAsTaken(files, request, frame)
  return lens && request.document.plate ? throughLens(taken, frame, size, lens, false) : taken
}

function plateAsTaken(files: Files, { document, frame, small }: Request, size: Size): Node {
  const source = document.plate && pictureNode(files, document.plate, frame, document.rate, small)
  if (!source) return black(size)
  const aspect = document.plate!.clip?.pixelAspect
  return letterboxed(source, size, aspect ? perSecond(aspect) : 1)
}

function builtPicture(files: Files, request: Request, size: Size, look?: TreatedBy['look']): Picture {
  const { document, frame, without } = request
  const on = (layer: { on: boolean; id: string }): boolean => layer.on && without?.id !== layer.id
  const layers = inOrder(document.build.layers)
  const plateLayer = layers.find(layer => layer.kind === 'plate')
  const renderLayer = layers.find((layer): layer is RenderLayer => layer.kind === 'render')
  const passes = passesFor(files, request, size)
  /** What a layer shows, treated, at a frame. */
  const withTreatments = (
    layer: (typeof layers)[number],
    relative: boolean,
    pictureAt: (request: Request) => Picture,
  ): Picture => {
    const own = pictureAt(request)
    return without?.treatments && !look
      ? own
      : treated(own, layer.treatments, treatedBy(files, request, size, relative, look, pictureAt))
  }
  const nothing: Picture = { colour: black(size), ...atDistance(NO_DEPTH, boxOfSize(size)) }
  let picture = nothing
  if (plateLayer && on(plateLayer)) {
    const plate = withTreatments(plateLayer, false, at => ({ ...nothing, colour: plateNode(files, at, size) }))
    const opacity = valueAt(plateLayer.opacity, frame)
    picture = opacity === 1 ? plate : laidOver(picture, plate, 'over', opacity)
  }
  const renderOf = (at: Request): RenderAt | undefined => {
    const there = passesFor(files, at, size)
    return there && { document, layer: renderLayer!, frame: at.frame, passes: there, noisy: !!without?.clean }
  }
  const render = renderLayer && on(renderLayer) && passes ? renderOf(request) : undefined
  const rendered =
    render &&
    withTreatments(render.layer, true, at => {
      const there = renderOf(at)
      return there ? { colour: renderNode(there), ...distancesOf(there.passes) } : nothing
    })
  if (render) picture = { ...picture, colour: onGround(picture.colour, render) }
  // Far to near; the render is laid in slices between the pictures
  const flat = layers
    .filter(layer => isFlat(layer) && on(layer))
    .map(layer => ({ layer: layer as FlatLayer, distance: valueAt((layer as FlatLayer).distance, frame) }))
    .sort((a, b) => b.distance - a.distance)
  let far = FAR
  const layRender = (near: number): void => {
    if (!render) return
    const { mode, opacity } = render.layer
    const slice = { ...rendered!, colour: sliceNode(rendered!.colour, near, far, passes!) }
    picture = laidOver(picture, slice, mode, within(valueAt(opacity, frame), 0, 1))
  }
  for (const { layer, distance } of flat) {
    layRender(distance)
    far = distance
    const shown = flatNode(files, layer, request, size)
    if (!shown) continue
    const placed = withTreatments(layer, false, at => ({
      colour: at === request ? shown : (flatNode(files, layer, at, size) ?? black(size)),
      ...atDistance(valueAt(layer.distance, at.frame), boxOfSize(size)),
    }))
    picture = laidOver(picture, placed, layer.mode, within(valueAt(layer.opacity, frame), 0, 1))
  }
  layRender(0)
  return render ? { ...picture, colour: throughAir(picture.colour, render) } : picture
}

/** A picture over another, with how far away what one sees is then. */
function laidOver(backdrop: Picture, source: Picture, mode: string, opacity: number): Picture {
  if (opacity <= 0) return backdrop
  return { colour: blended(backdrop.colour, source.colour, mode, opacity), ...coveredBy(backdrop, source, opacity) }
}

function blended(backdrop: Node, source: Node, mode: string, opacity: number): Node {
  return kernelNode(
    Blend,
    { backdrop, source, mode: blendKernel(mode), opacity },
    { window: backdrop.window, only: { where: 'source', elsewhere: 'backdrop' } },
  )
}

/** What a flat layer shows; undefined where a clip shows nothing. */
function flatNode(files: Files, layer: FlatLayer, request: Request, size: Size): Node | undefined {
  if (layer.kind === 'picture') return placedNode(files, layer, request, size)
  const [red, green, blue] = layer.colour.map(part => Math.max(0, valueAt(part, request.frame))) as [
    number,
    number,
    number,
  ]
  return kernelNode(Wash, { colour: [red, green, blue, 1] }, { window: boxOfSize(size) })
}

/** A picture where its layer puts it; undefined where a clip shows nothing. */
function placedNode(
  files: Files,
  layer: PictureLayer,
  { document, frame, small }: Request,
  size: Size,
): Node | undefined {
  const source = pictureNode(files, layer.picture, frame, document.rate, small)
  if (!source) return undefined
  const width = widthOf(source.window)
  const height = heightOf(source.window)
  const scale = Math.max(1e-4, valueAt(layer.scale, frame))
  const angle = (valueAt(layer.rotation, frame) * Math.PI) / 180
  const x = valueAt(layer.x, frame) + size.left
  const y = valueAt(layer.y, frame) + size.top
  // Result pixel -> frame pixel -> about the middle, turned back, unscaled -> source pixel
  // A small picture has fewer pixels than the one for which the scale was said
  const fewer = width / layer.picture.width
  const cos = (Math.cos(angle) / scale) * fewer
  const sin = (Math.sin(angle) / scale) * fewer
  const k = size.shrink
  // Pixels that are not square are as wide as they say
  const aspect = layer.picture.clip ? perSecond(layer.picture.clip.pixelAspect) : 1
  const map = [
    (cos * k) / aspect,
    (sin * k) / aspect,
    width / 2 - (cos * x + sin * y) / aspect,
    -sin * k,
    cos * k,
    height / 2 + sin * x - cos * y,
  ] as const
  const [a, b, c, d, e, f] = map
  return kernelNode(
    Place,
    { source, a, b, c, d, e, f, edge: 0 },
    {
      window: common(boxOfSize(size), mappedBox(boxOf(width, height), inverse(map))),
      needs: area => mappedBox(area, map),
    },
  )
}

/** The map back. */
function inverse([a, b, c, d, e, f]: readonly [number, number, number, number, number, number]): number[] {
  const det = a * e - b * d
  return [e / det, -b / det, (b * f - c * e) / det, -d / det, a / det, (c * d - a * f) / det]
}
