// Figures that stand in the scene, as a render has them: each its picture with its lines.
import { heightOf, widthOf } from '../engine/box'
import { metresTo, pixelsAtOne } from '../layer/card'
import { finite } from '../plan/finite'
import { kernelNode } from '../plan/node'
import { atDistance, type Picture } from '../plan/picture'
import { reduced } from '../plan/reduced'
import { fullSize, type Size } from '../plan/size'
import { halvingsTo } from '../plan/spread'
import { NO_DEPTH } from '../render/passes'
import { cardAt, linesOnCard } from '../shot/cards'
import type { FigureLayer } from '../shot/document'
import { beyondFrame } from '../shot/lens'
import { cameraAt } from '../shot/scene'
import type { Files } from './files'
import { Shift } from '../../kernels/records'
import { black, ownPicture, type OwnPicture } from './plates'
import { workSize, type Request } from './request'
import { treatedBy } from './treatedBy'
import { treated } from './treatments'

export interface CardNode extends Picture {
  /** What of the figure's own picture it covers, in its pixels. */
  covers: { width: number; height: number }
  picture: OwnPicture
}
/** Pixels of a card's picture across or down: it is seen in mirrors, and thrown as a shadow. */
const CARD_MOST = 2048
/** Metres before the camera: what is nearer has no size of its own on the frame. */
const NEAREST = 0.5

/**
 * The picture of a figure as its card has it; undefined where it shows none. Throws StillPacked.
 */
export function cardPicture(files: Files, layer: FigureLayer, at: Request): CardNode | undefined {
  const { document, frame } = at
  const frameAt = workSize(at)
  // Only what is said of its own picture is asked for (ownPicture)
  const mattes = { frame, size: frameAt, mattes: document.mattes, passes: undefined, relative: false }
  const own = ownPicture(files, layer, at, layer.matte, mattes)
  if (!own) return undefined
  const whole = finite(own.node)
  const times = halvingsTo(Math.max(widthOf(whole.window), heightOf(whole.window)), CARD_MOST)
  const node = reduced(whole, times)
  const [width, height] = [widthOf(node.window), heightOf(node.window)]
  const perPixel = (own.width / widthOf(whole.window)) * 2 ** times
  // What is said in pixels of the frame is as large on it as where it is seen
  const camera = beyondFrame(cameraAt(document.scene.camera, frame), document.frame, [frameAt.left, frameAt.top])
  const card = cardAt(layer, frame, own, camera)
  const seen = pixelsAtOne(camera, fullSize(frameAt).width) / Math.max(NEAREST, metresTo(camera, card.foot))
  const shrink = seen / (Math.hypot(card.toPicture[1], card.toPicture[4]) / perPixel)
  const size: Size = {
    ...{ width, height, left: 0, top: 0, shrink },
    ...{ frameWidth: width * shrink, frameHeight: height * shrink },
  }
  const picture: Picture = { colour: node, ...atDistance(NO_DEPTH, node.window) }
  const there = (other: Request): Picture => cardPicture(files, layer, other) ?? { ...picture, colour: black(size) }
  const by = treatedBy(files, at, size, false, undefined, there, () => undefined)
  const made = treated(picture, linesOnCard(layer), by)
  // What a line lays beyond its picture is not on the card
  const colour = kernelNode(Shift, { source: made.colour, dx: 0, dy: 0 }, { window: node.window, needs: area => area })
  return { ...made, colour, covers: { width: width * perPixel, height: height * perPixel }, picture: own }
}
