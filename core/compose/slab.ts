// What stands by its depth, cut between the layers of a picture and by each other.
import { point } from '../formula/point'
import { FAR, type Shown } from '../layer/layer'
import { joined } from '../matte/join'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import type { Layer } from '../shot/document'
import { raster } from '../../kernels/record'
import { DepthSlice, Fill, ShareOf, Wash } from '../../kernels/records'
import { CUT_REACH } from '../../kernels/assembly/layout'

export interface Part {
  layer: Layer
  shown: Shown
  /** The render on whose surfaces it lies: it is before them and cuts nothing of them. */
  on?: string | undefined
  /** Names of things that it is behind, wherever they are. */
  behind?: readonly string[]
}
/** What stands by its depth between two distances, from far to near. */
export function slab(deep: readonly Part[], near: number, far: number): Part[] {
  return deep.reduce<Part[]>((parts, { shown, ...rest }) => {
    const cut = between(shown, near, far)
    if (!cut) return parts
    const added = { ...rest, shown: cut }
    const behind = parts.flatMap(part => partOf(part, added, 'behind'))
    return [...behind, added, ...parts.flatMap(part => partOf(part, added, 'before'))]
  }, [])
}

/** What of it is nearer than one distance and not nearer than another; undefined where that is surely nothing. */
function between(shown: Shown, near: number, far: number): Shown | undefined {
  const { span, nearer } = shown
  // The farthest part has no far end
  if ((span.near >= far && far < FAR) || span.far < near || span.near > span.far) return undefined
  return sliced(shown, {
    far: far < FAR && span.far >= far ? nearer(far) : undefined,
    near: near > 0 && span.near < near ? nearer(near) : undefined,
  })
}

/** What of a part is behind another, or before it, pixel by pixel. */
function partOf(part: Part, other: Part, where: 'behind' | 'before'): Part[] {
  const { shown } = part
  const { span } = other.shown
  if (other.on !== undefined && (part.layer.id === other.on || part.on === other.on))
    return where === 'behind' ? [part] : []
  // What may not reach each other is not cut; what stands at the same place is behind what was added later
  if (shown.span.near >= span.far) return where === 'behind' ? [part] : []
  if (shown.span.far < span.near) return where === 'before' ? [part] : []
  const share = nearerShare(part, other)
  return [{ ...part, shown: sliced(shown, where === 'before' ? { far: share } : { near: share }) }]
}

/** How much of a part is nearer than another: by how far away they are, and what each is said to be behind. */
function nearerShare({ shown, behind = [] }: Part, other: Part): Node {
  const share = shown.nearer(other.shown.edge(), other.behind)
  // What lies on a thing that this one is behind is before it with that
  return behind.length && other.on !== undefined ? joined(share, other.shown.nearer(0, behind), 'not') : share
}

/** Shares that are nearer than both ends of a slice: what is nearer than the far one and not than the near one is in it. */
interface Ends {
  far?: Node | undefined
  near?: Node | undefined
}
function sliced(shown: Shown, ends: Ends): Shown {
  if (!ends.far && !ends.near) return shown
  const { colour, thick, nearer } = shown
  return {
    ...shown,
    colour: kernelNode(DepthSlice, { source: colour, ...ends }, { window: colour.window, reach: CUT_REACH }),
    nearer: thick ? than => ofSlice(nearer(than), ends) : nearer,
  }
}

/**
 * How much of a slice is nearer, by how much of the whole is. Of what covers a, the part before a share s lets 1 - a s
 * through; of a slice from n to f, up to s, it is (s - n) / (f - n).
 */
const ShareOfSlice = point(
  'ShareOfSlice',
  { share: raster('single'), far: raster('single'), near: raster('single') },
  ({ colour, singles: { share, far, near } }) =>
    colour.map(() => share.minus(near).over(far.minus(near).atLeast(1e-6)).atLeast(0).atMost(1)),
)
function ofSlice(share: Node, ends: Ends): Node {
  const { window } = share
  const all = (value: number): Node => kernelNode(Fill, { value }, { window })
  const source = kernelNode(Wash, { colour: [1, 1, 1, 1] }, { window })
  const given = { share, far: ends.far ?? all(1), near: ends.near ?? all(0) }
  return kernelNode(ShareOf, { source: pointNode(ShareOfSlice, whole(source), given), which: 0 }, { window })
}

/** Names of things that a layer is said to be behind. */
export const namedBefore = (layer: Layer): readonly string[] => ('behind' in layer && layer.behind) || []
/** What shows such things shows them before all from so many metres on. */
export function aheadBy(shown: Shown, said: readonly { from: number; behind: readonly string[] }[]): Shown {
  const { nearer } = shown
  return {
    ...shown,
    nearer: (than, ahead = []) => {
      const names = said.flatMap(({ from, behind }) => (typeof than === 'number' && than >= from ? behind : []))
      return nearer(than, [...new Set([...ahead, ...names])])
    },
  }
}
