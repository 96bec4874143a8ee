// Pictures made smaller by halves with nothing moved: for light that is spread, where a spark must stay where it is.
import { grown, type Box } from '../engine/box'
import { HalveSoft } from '../../kernels/records'
import { padding, pairs } from './gaussian'
import { kernelNode, type Node } from './node'

/** Variance in pixels by which so many halvings and the way back widen all: 3/4 each way of each. */
export const spreadOfHalvings = (times: number): number => (1.5 * (4 ** times - 1)) / 3

/** Half as large. fills: it goes on beyond its edge; else there is nothing, and light falls beyond it. window: of what is to come. */
export function halvedSoft(source: Node, fills: boolean, window: Box): Node {
  const even = fills ? pairs(window) : pairs(grown(source.window, 2))
  const padded = fills ? source : padding(source, even)
  return kernelNode(
    HalveSoft,
    { source: padded },
    {
      window: { left: even.left / 2, top: even.top / 2, right: even.right / 2, bottom: even.bottom / 2 },
      needs: ({ left, top, right, bottom }) => ({
        left: left * 2 - 1,
        top: top * 2 - 1,
        right: right * 2 + 1,
        bottom: bottom * 2 + 1,
      }),
    },
  )
}
