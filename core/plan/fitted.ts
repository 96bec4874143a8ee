// Pictures in their own pixels, brought to those of the frame.
import { boxOf, common, grown, heightOf, widthOf, type Box } from '../engine/box'
import { Halve, Mix, Place } from '../../kernels/records'
import { kernelNode, type Node } from './node'
import type { Size } from './size'

/** What an area needs of a source that an affine map takes its pixels to, with two pixels all round for the filter. */
export function mappedBox(area: Box, [a, b, c, d, e, f]: readonly number[]): Box {
  const corners = [
    [area.left, area.top],
    [area.right, area.top],
    [area.left, area.bottom],
    [area.right, area.bottom],
  ] as const
  const xs = corners.map(([x, y]) => a! * x + b! * y + c!)
  const ys = corners.map(([x, y]) => d! * x + e! * y + f!)
  return grown(
    {
      left: Math.floor(Math.min(...xs)),
      top: Math.floor(Math.min(...ys)),
      right: Math.ceil(Math.max(...xs)),
      bottom: Math.ceil(Math.max(...ys)),
    },
    2,
  )
}

/** share: of the second. */
export const mixed = (first: Node, second: Node, share: number): Node =>
  kernelNode(Mix, { first, second, share }, { window: common(first.window, second.window) })

/** A plate, fitted to the width, in the middle of the height (it keeps its shape). pixelAspect: width of its pixels to their height. */
export function letterboxed(own: Node, size: Size, pixelAspect: number): Node {
  // A small picture that is just as large as what is asked for
  if (pixelAspect === 1 && widthOf(own.window) === size.width && heightOf(own.window) === size.height) return own
  const scale = widthOf(own.window) / (size.width * size.shrink)
  const tall = scale * pixelAspect
  return atSize(own, size, [scale, 0, tall, heightOf(own.window) / 2 - (size.height * size.shrink * tall) / 2], {
    same: pixelAspect === 1,
    edge: false,
  })
}

/** Scale and offset across, then down; then shrunk by halves. edge: repeats it beyond. */
export function atSize(
  own: Node,
  size: Size,
  [scaleX, offsetX, scaleY, offsetY]: readonly [number, number, number, number],
  { same, edge }: { same: boolean; edge: boolean },
): Node {
  const full = boxOf(size.width * size.shrink, size.height * size.shrink)
  let node = own
  if (!same || widthOf(own.window) !== full.right || heightOf(own.window) !== full.bottom) {
    const map = [scaleX, 0, offsetX, 0, scaleY, offsetY]
    const [a, b, c, d, e, f] = map as [number, number, number, number, number, number]
    node = kernelNode(
      Place,
      { source: own, a, b, c, d, e, f, edge: edge ? 1 : 0 },
      {
        window: full,
        // Beyond its edge the edge itself is wanted
        needs: area => {
          const box = mappedBox(area, map)
          if (!edge) return box
          const { right, bottom } = own.window
          return {
            left: Math.min(box.left, right - 1),
            top: Math.min(box.top, bottom - 1),
            right: Math.max(box.right, 1),
            bottom: Math.max(box.bottom, 1),
          }
        },
      },
    )
  }
  let { right: width, bottom: height } = full
  for (let factor: number = size.shrink; factor > 1; factor /= 2) {
    width = factor === 2 ? size.width : Math.floor(width / 2)
    height = factor === 2 ? size.height : Math.floor(height / 2)
    node = kernelNode(
      Halve,
      { source: node },
      {
        window: boxOf(width, height),
        needs: ({ left, top, right, bottom }) => ({
          left: left * 2,
          top: top * 2,
          right: right * 2,
          bottom: bottom * 2,
        }),
      },
    )
  }
  return node
}
