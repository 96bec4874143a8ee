// Layers laid over each other, and what stands by its depth cut between others.
import { heightOf, sameBox, widthOf } from '../engine/box'
import { FAR, type Shown } from '../layer/layer'
import { beyondOver } from '../plan/beyond'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { blendKernel } from '../plan/modes'
import { kernelNode, type Node } from '../plan/node'
import { coveredBy, cutTo, shareOver } from '../plan/picture'
import type { Layer } from '../shot/document'
import { AddLight, Blend, DepthOver, DepthSlice } from '../../kernels/records'
import { CUT_REACH } from '../../kernels/assembly/layout'

export interface Part {
  layer: Layer
  shown: Shown
}
/** What stands by its depth between two distances, from far to near. */
export function slab(deep: readonly Part[], near: number, far: number): Part[] {
  return deep.reduce<Part[]>((parts, { layer, shown }) => {
    const colour = cut(shown, near, far)
    if (!colour) return parts
    const added = { layer, shown: { ...shown, colour } }
    const behind = parts.flatMap(part => partOf(part, added.shown, 'behind'))
    return [...behind, added, ...parts.flatMap(part => partOf(part, added.shown, 'before'))]
  }, [])
}

/** What of it is nearer than one distance and not nearer than another; undefined where that is surely nothing. */
function cut({ colour, span, nearer }: Shown, near: number, far: number): Node | undefined {
  // The farthest part has no far end
  if ((span.near >= far && far < FAR) || span.far < near || span.near > span.far) return undefined
  const ends = {
    far: far < FAR && span.far >= far ? nearer(far) : undefined,
    near: near > 0 && span.near < near ? nearer(near) : undefined,
  }
  return ends.far || ends.near ? sliced(colour, ends) : colour
}

/** What of a part is behind another, or before it, pixel by pixel. */
function partOf(part: Part, other: Shown, where: 'behind' | 'before'): Part[] {
  const { shown } = part
  const { span } = other
  // What may not reach each other is not cut; what stands at the same place is behind what was added later
  if (shown.span.near >= span.far) return where === 'behind' ? [part] : []
  if (shown.span.far < span.near) return where === 'before' ? [part] : []
  const share = shown.nearer(other.edge())
  const colour = sliced(shown.colour, where === 'before' ? { far: share } : { near: share })
  return [{ ...part, shown: { ...shown, colour } }]
}

const sliced = (source: Node, ends: { far?: Node; near?: Node }): Node =>
  kernelNode(DepthSlice, { source, ...ends }, { window: source.window, reach: CUT_REACH })

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
          { window, only: { where: 'source', elsewhere: 'backdrop' } },
        )
  return {
    colour,
    ...coveredBy(below, source, opacity),
    beyond: beyondOver(below, source, colour, { opacity, covers: mode === 'over' }),
    nearer: than => shareOver(below, source, opacity, below.nearer(than), source.nearer(than)),
    edge: () =>
      kernelNode(
        DepthOver,
        { backdrop: below.edge(), below: below.colour, source: source.colour, depth: source.edge(), opacity },
        { window },
      ),
    stacked: !isFirst,
    span: { near: Math.min(below.span.near, source.span.near), far: Math.max(below.span.far, source.span.far) },
  }
}
