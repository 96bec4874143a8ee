// What is as thick as air is: how much of it lies before something.
import { common, type Box } from '../engine/box'
import { kernelNode, type Node } from '../plan/node'
import { ThickShare } from '../../kernels/records'
import type { Shown } from './layer'

/** How a picture that goes evenly from one distance to another, metres, is cut by what stands in it. */
export const thickBetween = (
  colour: Node,
  near: number,
  far: number,
  window: Box,
): Pick<Shown, 'nearer' | 'span' | 'stacked' | 'thick'> => ({
  stacked: true,
  thick: true,
  span: { near, far },
  nearer: than =>
    kernelNode(
      ThickShare,
      {
        source: colour,
        ...(typeof than === 'number' ? { distance: than } : { than, distance: 0 }),
        near,
        scale: 1 / (far - near),
      },
      // All of what cuts it: that stays while it is moved
      {
        window: common(window, colour.window),
        needs: (area, input) => (input === 1 && typeof than !== 'number' ? than.window : area),
      },
    ),
})
