// Mattes grown by discs and shrunk by them. Small discs pixel by pixel, fading out over their last pixel, so that an edge
// moves by fractions; large ones are a disc of whole pixels first, and a small one after it: the sum of two discs is one.
import { grown as grownBox, type Box } from '../engine/box'
import { DiscMax, GrowMatte, ShiftSingle, TurnOver, WidenMax } from '../../kernels/records'
import { kernelNode, type Node } from './node'

/** A disc up to so many pixels is gone through pixel by pixel. */
const SMALL = 4
/** What a large one leaves to do so. */
const REST = 2
/** The spans that DiscMax knows, as they are called in its record. */
const SPANS = [
  'one',
  'two',
  'four',
  'eight',
  'sixteen',
  'thirtyTwo',
  'sixtyFour',
  'hundreds',
  'halfThousand',
  'thousand',
] as const
/** What the widest span allows. */
export const MOST_GROWN = 500

/** By so many pixels, less than nothing to shrink it. What lies beyond the picture is nothing, and is not shrunk from. */
export function grownMatte(matte: Node, pixels: number): Node {
  const radius = Math.min(MOST_GROWN, Math.abs(pixels))
  if (radius < 1e-3) return matte
  const shrink = pixels < 0 ? 1 : 0
  const small = (source: Node, by: number): Node =>
    kernelNode(GrowMatte, { source, radius: by, shrink }, { window: source.window, reach: Math.ceil(by) + 1 })
  if (radius <= SMALL) return small(matte, radius)
  const disc = Math.floor(radius) - REST
  const turned = (source: Node): Node => (shrink ? kernelNode(TurnOver, { source }, { window: source.window }) : source)
  return small(turned(withinDisc(turned(matte), disc)), radius - disc)
}

function withinDisc(source: Node, disc: number): Node {
  const { window } = source
  const padded: Box = grownBox(window, disc + 1)
  const levels = [kernelNode(ShiftSingle, { source, dx: 0, dy: 0 }, { window: padded, needs: area => area }) as Node]
  while (1 << levels.length <= 2 * disc + 1) {
    const step = 1 << (levels.length - 1)
    levels.push(
      kernelNode(
        WidenMax,
        { source: levels.at(-1)!, step },
        { window: padded, needs: area => ({ ...area, right: area.right + step }) },
      ),
    )
  }
  const spans = Object.fromEntries(levels.map((level, i) => [SPANS[i]!, level]))
  return kernelNode(
    DiscMax,
    // A lattice's disc is roundest at a quarter of a pixel more
    { ...(spans as Record<'one' | 'two' | 'four', Node>), radius: disc + 0.25 },
    { window, reach: disc + 1 },
  )
}
