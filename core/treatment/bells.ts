// Several bells at once, each with a weight for each channel: wide ones on a picture made smaller by halves, from the
// widest up, so that the way back to the full size is gone once.
import { around, boxOf, common, grown, holds, type Box } from '../engine/box'
import { doubled, gaussian, REACH } from '../plan/gaussian'
import { halvedSoft, spreadOfHalvings } from '../plan/halves'
import type { Node } from '../plan/node'
import { joined, type Weight } from './weighted'

export interface Bell {
  /** Standard deviation, pixels. */
  sigma: number
  weight: Weight
}

/** In a picture made smaller a bell has this standard deviation at least: less would not be one. */
const LEAST_SIGMA = 2.5

/** What goes on up is not weighted again. */
const EVEN: Weight = [1, 1, 1]

/** Their sum; at the frame's edge as gaussian has it. It covers nothing. */
export function bells(source: Node, all: readonly Bell[], { width, height }: { width: number; height: number }): Node {
  const levelOf = ({ sigma }: Bell): number => Math.max(0, Math.floor(Math.log2(sigma / LEAST_SIGMA)))
  const frame = boxOf(width, height)
  const fills = holds(source.window, frame)
  const widest = Math.max(...all.map(({ sigma }) => sigma))
  const window = fills ? frame : common(frame, grown(source.window, Math.ceil(widest * REACH) + 2))
  return at(source, 0, window)

  function at(picture: Node, level: number, window: Box): Node {
    const own = all.filter(bell => levelOf(bell) === level)
    const wider = all.some(bell => levelOf(bell) > level)
    const size = { width: Math.ceil(width / 2 ** level), height: Math.ceil(height / 2 ** level) }
    const lights = own.map(({ sigma, weight }) => {
      // Each halving, and the way back from it, has widened it
      const own = Math.sqrt(sigma * sigma - spreadOfHalvings(level)) / 2 ** level
      return [gaussian(picture, own, size), weight] as const
    })
    if (!wider) return joined(lights, window)
    const small = halvedSoft(picture, fills, window)
    const half = fills ? small.window : around(small.window, halfOf(window))
    const below = doubled(at(small, level + 1, half), fills, window)
    return lights.length ? joined([[below, EVEN], ...lights], window) : below
  }
}

/** With a pixel more all round, for the way back. */
const halfOf = ({ left, top, right, bottom }: Box): Box => ({
  left: Math.floor(left / 2) - 1,
  top: Math.floor(top / 2) - 1,
  right: Math.ceil(right / 2) + 1,
  bottom: Math.ceil(bottom / 2) + 1,
})
