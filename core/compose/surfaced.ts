// A picture that has a distance at each pixel: what stands far of a shot whose plate has a depth of its own.
import { point } from '../formula/point'
import { FAR, type Shown } from '../layer/layer'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { PassNodes } from '../render/passnodes'
import { raster } from '../../kernels/record'
import { Fill, ShareOf, Wash } from '../../kernels/records'
import type { PassFileReference } from '../shot/document'
import { lensOf } from '../shot/lens'
import type { Size } from '../plan/size'
import type { Files } from './files'
import { frameSize, type Request } from './request'
import { throughLens } from './throughlens'

/** Metres of a plate's own depth, where the lens of the shot is taken off the plate off it too. Throws StillPacked. */
export function plateDepth(files: Files, request: Request, size: Size, file: PassFileReference): Node {
  const { document, frame } = request
  const taken = frameSize(request)
  const lens = lensOf(document, frame)
  const own = new PassNodes(files.open(file, document.frame, frame), lens ? taken : size).single('depth.Z')
  return lens ? throughLens(own, taken, size, lens, false) : own
}

/** Over so much of its distance a surface comes before another: depths of photographs are not finer. */
const SOFT = 0.01
/** The share of a surface that is nearer than something. */
const NearerShare = point(
  'NearerShare',
  { depth: raster('single'), than: raster('single') },
  ({ colour, singles: { depth, than } }) => {
    // At the same distance the other is seen: it was put there
    const share = than
      .over(depth.atLeast(1e-6))
      .minus(1 + SOFT / 2)
      .over(SOFT)
      .atLeast(0)
      .atMost(1)
    return colour.map(() => share)
  },
)

/** A picture whose pixels stand where a depth says. */
export function surfaced(picture: Shown, depth: Node): Shown {
  const { window } = picture.colour
  return {
    ...picture,
    depth: () => depth,
    byDepth: say => say(depth),
    edge: () => depth,
    nearer: than => {
      const white = kernelNode(Wash, { colour: [1, 1, 1, 1] }, { window })
      const other = typeof than === 'number' ? kernelNode(Fill, { value: than }, { window }) : than
      const given = { depth, than: other }
      return kernelNode(ShareOf, { source: pointNode(NearerShare, whole(white), given), which: 0 }, { window })
    },
    stacked: false,
    span: { near: 0, far: FAR },
  }
}
