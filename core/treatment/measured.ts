// A measured spread of light: a small bright core and a wide faint skirt, of which each part is laid on a picture as fine as
// it needs.
import type { SmallPicture } from '../formats/picture/small'
import type { Node } from '../plan/node'
import { halvingsTo, spread } from '../plan/spread'
import { tapsOf } from './shaped'
import { joined, type Weight } from './weighted'

/** Pixels of radius that each finer picture's part of it has. */
const FINE = 6

/**
 * What a picture's light becomes where each spark of it is the shape, so many pixels wide. weight: of each channel.
 */
export function measuredSpread(
  source: Node,
  size: { width: number; height: number },
  shape: SmallPicture,
  across: number,
  weight: Weight,
): Node {
  const levels = halvingsTo(across, 2 * FINE)
  // Up to a radius it is whole, then it fades to nothing at twice that, where the next coarser one has become whole
  const inner = (level: number, far: number): number => {
    if (level > levels - 1) return 1
    const t = Math.min(1, Math.max(0, (far * across) / (FINE * 2 ** level) / 0.5 - 1))
    return 1 - t * t * (3 - 2 * t)
  }
  const lights = Array.from({ length: levels + 1 }, (_, level) => {
    const taps = tapsOf(shape, across / 2 ** level, far => inner(level, far) - (level > 0 ? inner(level - 1, far) : 0))
    return taps.length ? [[spread(source, size, level, taps, { beyond: 'a mirror' }), weight] as const] : []
  }).flat()
  return joined(lights, source.window)
}
