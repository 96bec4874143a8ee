// Pictures made smaller by halves, and back: what is smooth is worked out there at a fraction of the cost. Small pictures
// stand on whole pixels of the frame, so that a pixel is the same whatever part of the picture is asked for.
import type { Box } from '../engine/box'
import { Halve, Place, Shift } from '../../kernels/records'
import { pairs } from './gaussian'
import { kernelNode, type Node } from './node'

const scaled = ({ left, top, right, bottom }: Box, by: number): Box => ({
  left: left * by,
  top: top * by,
  right: right * by,
  bottom: bottom * by,
})

/** Halved so many times, premultiplied; where an odd row or column stands alone there is nothing beside it. */
export function reduced(source: Node, times: number): Node {
  if (times <= 0) return source
  const even = pairs(source.window)
  const padded = kernelNode(Shift, { source, dx: 0, dy: 0 }, { window: even, needs: area => area })
  const half = kernelNode(Halve, { source: padded }, { window: scaled(even, 0.5), needs: area => scaled(area, 2) })
  return reduced(half, times - 1)
}

/** Enlarged as often, straight between its pixels, into a window of the larger one. */
export function enlarged(source: Node, times: number, window: Box): Node {
  if (times <= 0) return source
  const by = 2 ** -times
  return kernelNode(
    Place,
    { source, a: by, b: 0, c: 0, d: 0, e: by, f: 0, edge: 1 },
    {
      window,
      needs: ({ left, top, right, bottom }) => ({
        left: Math.floor(left * by) - 1,
        top: Math.floor(top * by) - 1,
        right: Math.ceil(right * by) + 1,
        bottom: Math.ceil(bottom * by) + 1,
      }),
    },
  )
}

/** The frame's size after as many halvings. */
export const reducedSize = (
  { width, height }: { width: number; height: number },
  times: number,
): { width: number; height: number } => ({
  width: Math.ceil(width / 2 ** times),
  height: Math.ceil(height / 2 ** times),
})
