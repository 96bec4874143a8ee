// Pictures laid over each other, each with how far away it shows what it shows.
import { heightOf, sameBox, widthOf } from '../engine/box'
import { beyondOver } from '../plan/beyond'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { blendKernel } from '../plan/modes'
import { kernelNode, type Node } from '../plan/node'
import { coveredBy, cutTo, shareOver, WHERE_IT_IS } from '../plan/picture'
import { AddLight, Blend, DepthOver } from '../../kernels/records'
import type { Shown } from './layer'

/** A 32nd of the frame's width: so wide is what shines on a thing from behind it. */
const AROUND = 1 / 32
function litFromBehind(colour: Node, spill: Node, behind: Node): Node {
  const size = { width: widthOf(behind.window), height: heightOf(behind.window) }
  const light = cutTo(gaussian(finite(behind), size.width * AROUND, size), spill)
  return kernelNode(AddLight, { source: colour, light, amount: 1 }, { window: colour.window })
}

/** A picture over another, with how far away what one sees is then. */
export function laidOver(below: Shown, laid: Shown, mode: string, opacity: number): Shown {
  if (opacity <= 0) return below
  const { window } = below.colour
  const source = laid.spill ? { ...laid, colour: litFromBehind(laid.colour, laid.spill, below.colour) } : laid
  const isFirst = below.span.near > below.span.far
  const covers = mode === 'over' && opacity === 1
  // A plate need not be laid on nothing
  const colour =
    isFirst && covers && sameBox(source.colour.window, window)
      ? source.colour
      : kernelNode(
          Blend,
          { backdrop: below.colour, source: source.colour, mode: blendKernel(mode), opacity },
          { window, only: WHERE_IT_IS },
        )
  return {
    colour,
    ...coveredBy(below, source, opacity),
    beyond: beyondOver(below, source, colour, { opacity, covers: mode === 'over' }),
    nearer: (than, ahead) => shareOver(below, source, opacity, below.nearer(than, ahead), source.nearer(than, ahead)),
    edge: () =>
      kernelNode(
        DepthOver,
        { backdrop: below.edge(), below: below.colour, source: source.colour, depth: source.edge(), opacity },
        { window, only: WHERE_IT_IS },
      ),
    stacked: !isFirst,
    span: { near: Math.min(below.span.near, source.span.near), far: Math.max(below.span.far, source.span.far) },
  }
}
