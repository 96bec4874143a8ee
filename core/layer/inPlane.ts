// What lies in a plane of the scene: at its distance pixel by pixel.
import { kernelNode, type Node } from '../plan/node'
import { boxOfSize, type Size } from '../plan/size'
import { PlaneDepth, PlaneShare } from '../../kernels/records'
import { FAR, type Shown } from './layer'

/**
 * nearness: one over its metres along the view axis is a x + b y + c, in pixels of the full size. close: it is seen before what
 * is no farther than so many metres before it.
 */
export function inPlane(colour: Node, nearness: { a: number; b: number; c: number }, close: number, size: Size): Shown {
  const window = boxOfSize(size)
  const plane = { a: nearness.a * size.shrink, b: nearness.b * size.shrink, c: nearness.c, close }
  const depth = (): Node => kernelNode(PlaneDepth, { ...plane, close: 0 }, { window })
  return {
    colour,
    depth,
    byDepth: say => say(depth()),
    edge: () => kernelNode(PlaneDepth, plane, { window }),
    nearer: than =>
      kernelNode(
        PlaneShare,
        { ...plane, ...(typeof than === 'number' ? { distance: than } : { than, distance: 0 }) },
        { window },
      ),
    ...{ stacked: false, sheet: true },
    span: { near: 0, far: FAR },
  }
}
