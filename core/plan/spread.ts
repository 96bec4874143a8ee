// Light spread over a wide shape, in a picture made smaller by as many halves as the shape needs no finer pixels.
import { boxOf, common, holds } from '../engine/box'
import { along, type Tap } from './along'
import { doubled } from './gaussian'
import { halvedSoft } from './halves'
import type { Node } from './node'

interface Size {
  width: number
  height: number
}

/**
 * The sum of a picture laid at many places. taps: in pixels of the picture halved so many times. change: what else is done
 * to it there. beyond: nothing is beyond the frame's edge, or it goes on as in a mirror.
 */
export function spread(
  source: Node,
  size: Size,
  times: number,
  taps: readonly Tap[],
  {
    change = small => small,
    beyond = 'nothing',
  }: { change?: (small: Node, size: Size) => Node; beyond?: 'nothing' | 'a mirror' } = {},
): Node {
  const fills = beyond === 'a mirror' && holds(source.window, boxOf(size.width, size.height))
  return at(source, 0)

  function at(picture: Node, level: number): Node {
    const own = sized(level)
    if (level === times) return along(change(picture, own), own, [taps], { bare: !fills })
    const small = at(halvedSoft(picture, fills, picture.window), level + 1)
    // Wherever that has brought it
    const { left, top, right, bottom } = small.window
    const frame = boxOf(own.width, own.height)
    if (fills) return doubled(small, true, frame)
    const window = common(frame, {
      ...{ left: left * 2 - 1, top: top * 2 - 1 },
      ...{ right: right * 2 + 1, bottom: bottom * 2 + 1 },
    })
    return doubled(small, false, window)
  }
  function sized(level: number): Size {
    return { width: Math.ceil(size.width / 2 ** level), height: Math.ceil(size.height / 2 ** level) }
  }
}

/** Halvings after which a length is no more than so many pixels. */
export const halvingsTo = (length: number, most: number): number => Math.max(0, Math.ceil(Math.log2(length / most)))
