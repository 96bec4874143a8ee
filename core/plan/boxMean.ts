// Means of square windows, clipped to the picture, at a cost that does not grow with their size.
import type { Box } from '../engine/box'
import { BoxColumns, BoxRows } from '../../kernels/records'
import { kernelNode, type Node } from './node'

// Kernels begin their sums at whole multiples of these (kernels/assembly/image/boxRows.ts, boxColumns.ts)
const ACROSS = 64
const DOWN = 64
const before = (value: number, step: number): number => Math.floor(value / step) * step
const after = (value: number, step: number): number => Math.ceil(value / step) * step

/** Of all four numbers of a pixel, over so many pixels to each side. window: where the result has pixels. */
export function boxMean(source: Node, reach: number, window: Box = source.window): Node {
  const all = source.window
  const rows = kernelNode(
    BoxRows,
    { source, reach, low: all.left, high: all.right },
    {
      window: { ...window, top: all.top, bottom: all.bottom },
      needs: (area: Box) => ({
        ...area,
        left: before(area.left, ACROSS) - reach,
        right: after(area.right, ACROSS) + reach,
      }),
    },
  )
  return kernelNode(
    BoxColumns,
    { source: rows, reach, low: all.top, high: all.bottom },
    {
      window,
      needs: (area: Box) => ({
        ...area,
        top: before(area.top, DOWN) - reach,
        bottom: after(area.bottom, DOWN) + reach,
      }),
    },
  )
}
