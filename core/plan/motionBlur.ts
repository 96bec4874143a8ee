// A picture as it is seen while a shutter is open (kernels/assembly/image/motionBlur.ts does it).
import { grown, type Box } from '../engine/box'
import { Mirrored, MirroredSingle, MotionBlur, MotionCells, MotionNear, MotionPath } from '../../kernels/records'
import { MOTION_CELL } from '../../kernels/assembly/layout'
import { kernelNode, type Node } from './node'
import type { Picture } from './picture'
import { inRoom, seenIn } from './room'

export interface Shutter {
  /** When it opens and when it is closed, frames from the frame. */
  open: number
  close: number
  /** Longest way that anything goes from where it is, pixels. */
  most: number
}

/** motion: of each pixel where it goes in a frame and whence it came (Picture.motion). */
export function motionBlurred(
  picture: Picture,
  motion: Node,
  size: { width: number; height: number },
  { open, close, most }: Shutter,
): Node {
  // Two pixels more: what is between four of them
  const reach = Math.ceil(most) + 2
  const cells = Math.ceil(reach / MOTION_CELL) + 1
  const { source, window } = inRoom(picture.colour, size, reach, { onto: room => onCells(room) })
  const room = source.window
  const held = kernelNode(
    Mirrored,
    { source: motion },
    { window: room, needs: (area: Box) => seenIn(area, motion.window) },
  )
  const paths = kernelNode(MotionPath, { source: held, open, close, most }, { window: room })
  const metres = picture.depth()
  const depth = kernelNode(
    MirroredSingle,
    { source: metres },
    { window: room, needs: area => seenIn(area, metres.window) },
  )
  const cellsOf = (fast: 0 | 1): Node =>
    kernelNode(
      MotionCells,
      { paths, open, close, fast },
      { window: scaled(room), needs: area => scaled(area, MOTION_CELL) },
    )
  const [fast, slow] = [cellsOf(1), cellsOf(0)]
  const near = { window: fast.window, reach: cells }
  const first = kernelNode(MotionNear, { fast, slow, open, close, most: cells }, near)
  const second = kernelNode(MotionNear, { fast, slow, other: first, open, close, most: cells }, near)
  return kernelNode(
    MotionBlur,
    { source, paths, depth, first, second, open, close },
    { window, needs: (area, input) => (input < 3 ? grown(area, reach) : scaled(onCells(area))) },
  )
}

const onCells = ({ left, top, right, bottom }: Box): Box => ({
  left: Math.floor(left / MOTION_CELL) * MOTION_CELL,
  top: Math.floor(top / MOTION_CELL) * MOTION_CELL,
  right: Math.ceil(right / MOTION_CELL) * MOTION_CELL,
  bottom: Math.ceil(bottom / MOTION_CELL) * MOTION_CELL,
})
const scaled = ({ left, top, right, bottom }: Box, by = 1 / MOTION_CELL): Box => ({
  left: left * by,
  top: top * by,
  right: right * by,
  bottom: bottom * by,
})
