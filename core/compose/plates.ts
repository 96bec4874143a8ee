// The plate and the pictures of layers, as they are laid.
import { heightOf, widthOf } from '../engine/box'
import { letterboxed } from '../plan/fitted'
import { kernelNode, type Node } from '../plan/node'
import { atDistance, cutTo, type Picture } from '../plan/picture'
import { boxOfSize, type Size } from '../plan/size'
import { NO_DEPTH } from '../render/passes'
import { PassNodes } from '../render/passnodes'
import type { Layer, PictureReference, Slip } from '../shot/document'
import { lensOf } from '../shot/lens'
import { perSecond } from '../time/rate'
import { Clear } from '../../kernels/records'
import type { Files } from './files'
import { cutOut, matteNode, type MatteBy } from './mattes'
import { frameSize, type Request } from './request'
import { pictureNode } from './sources'
import { throughLens } from './throughlens'

export const black = (size: Size): Node => kernelNode(Clear, {}, { window: boxOfSize(size) })

/** Pictures that lie beside the plate, without the bend of its lens. */
export const straightened =
  (files: Files, size: Size) =>
  (request: Request): MatteBy['taken'] =>
  reference =>
    plateNode(files, request, size, reference)

/** A picture that the shot's camera took, without the bend of its lens. Throws StillPacked. */
export function plateNode(
  files: Files,
  request: Request,
  size: Size,
  plate: PictureReference | null = request.document.plate,
): Node {
  const frame = frameSize(request)
  const lens = lensOf(request.document, request.frame)
  const taken = plateAsTaken(files, request, frame, plate)
  return lens && plate ? throughLens(taken, frame, size, lens, false) : taken
}

/** The same as it was taken. Throws StillPacked. */
export function plateAsTaken(
  files: Files,
  { document, frame, small }: Request,
  size: Size,
  plate: PictureReference | null = document.plate,
): Node {
  const source = plate && pictureNode(files, plate, frame, document.rate, small)
  if (!source) return black(size)
  const aspect = plate.clip?.pixelAspect
  return letterboxed(source, size, aspect ? perSecond(aspect) : 1)
}

/** The picture of a layer in its own pixels, with the size that all of it has. */
export interface OwnPicture {
  node: Node
  width: number
  height: number
  pixelAspect: number
}
/**
 * The picture of a layer, cut to a slip where one is given; undefined where it shows none. from: what stands for it. Throws
 * StillPacked.
 */
export function ownPicture(
  files: Files,
  layer: Layer,
  { document, frame, small }: Request,
  slip: Slip | undefined,
  mattes: MatteBy,
  from: (own: Node) => Node = own => own,
): OwnPicture | undefined {
  const picture = 'picture' in layer ? layer.picture : undefined
  const node = picture && pictureNode(files, picture, frame, document.rate, small)
  if (!node) return undefined
  const { width, height } = picture
  const own = { node, width, height, pixelAspect: picture.clip ? perSecond(picture.clip.pixelAspect) : 1 }
  if (!slip) return { ...own, node: from(node) }
  // Its own pixels are the frame that the slip is said in
  const size: Size = {
    ...{ width: widthOf(node.window), height: heightOf(node.window), left: 0, top: 0 },
    ...{ frameWidth: width, frameHeight: height, shrink: width / widthOf(node.window) },
  }
  const comes: Picture = { colour: node, ...atDistance(NO_DEPTH, node.window) }
  // Its file is opened only where something is asked of it by name
  const isNamed = Object.values(slip.terms).some(({ kind }) => kind === 'names' || kind === 'kept')
  const names = isNamed && 'names' in layer ? layer.names : undefined
  const passes = names && new PassNodes(files.open(names, picture, frame), size)
  // Of what has an alpha a thing covers a share of that; of what has none, of the pixel
  const relative = !!passes && picture.alpha !== 'none' && picture.alpha !== 'ignore'
  const by: MatteBy = { ...mattes, size, passes, relative, taken: undefined }
  const matte = matteNode(slip, comes, by)
  if (matte === 'everywhere' || !matte) return { ...own, node: from(node) }
  const placed = from(node)
  return { ...own, node: placed === node ? (cutOut(slip, comes, by)?.colour ?? node) : cutTo(placed, matte) }
}
