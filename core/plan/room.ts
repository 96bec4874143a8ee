// Room round a picture for what looks beyond a pixel: a picture that fills the frame goes on beyond its edge as in a
// mirror, round any other there is nothing.
import { boxOf, common, grown, holds, moved, type Box } from '../engine/box'
import { Mirrored, Shift } from '../../kernels/records'
import { finite } from './finite'
import { kernelNode, type Node } from './node'

interface Size {
  width: number
  height: number
}
export interface Roomy {
  /** The picture with so much round it, of finite numbers (finite.ts). */
  source: Node
  /** Where the result has pixels. */
  window: Box
}
/** bare: nothing is round a picture that fills the frame, either. reach: pixels that the result of a pixel may be made of, to each side. onto: the room grown to what suits. */
export function inRoom(
  colour: Node,
  { width, height }: Size,
  reach: number,
  { onto = room => room, bare = false }: { onto?: (room: Box) => Box; bare?: boolean } = {},
): Roomy {
  const frame = boxOf(width, height)
  const fills = holds(colour.window, frame)
  const window = fills ? frame : common(frame, grown(colour.window, reach))
  const room = onto(grown(window, reach))
  const source =
    fills && !bare
      ? kernelNode(Mirrored, { source: colour }, { window: room, needs: area => seenIn(area, colour.window) })
      : kernelNode(Shift, { source: colour, dx: 0, dy: 0 }, { window: room, needs: area => area })
  return { source: finite(source), window }
}

/** What of a picture is seen in an area, where it goes on as in a mirror. */
export function seenIn(area: Box, { left, top, right, bottom }: Box): Box {
  const [first, last] = span(area.left, area.right, left, right)
  const [high, low] = span(area.top, area.bottom, top, bottom)
  return { left: first, right: last, top: high, bottom: low }
}
function span(from: number, to: number, low: number, high: number): [number, number] {
  const side = high - low
  if (from >= low && to <= high) return [from, to]
  if (from < low - side || to > high + side) return [low, high]
  return [Math.max(low, Math.min(from, 2 * high - to, high)), Math.min(high, Math.max(to, 2 * low - from, low))]
}

/** What is made of a picture, where that reaches beyond the frame with all of it as the frame. */
export function withAllOf(source: Node, frame: Size, make: (source: Node, frame: Size) => Node): Node {
  const { left, top, right, bottom } = source.window
  if (holds(boxOf(frame.width, frame.height), source.window)) return make(source, frame)
  const shifted = (picture: Node, dx: number, dy: number): Node =>
    kernelNode(
      Shift,
      { source: picture, dx, dy },
      { window: moved(picture.window, -dx, -dy), needs: area => moved(area, dx, dy) },
    )
  return shifted(make(shifted(source, left, top), { width: right - left, height: bottom - top }), -left, -top)
}
