// What of other frames belongs where something is in this one: found square by square, from small pictures to large ones.
import { boxOf, grown, type Box } from '../engine/box'
import { FromBlocks, MatchBlocks } from '../../kernels/records'
import { BLOCK_ROUND, BLOCK_SIDE } from '../../kernels/assembly/layout'
import { halvedSoft } from './halves'
import { kernelNode, type Node } from './node'
import { inRoom } from './room'

interface Size {
  width: number
  height: number
}
/** Halvings before the first search, and how far it looks in pixels of that size. */
const HALVINGS = 3
const FIRST_SEARCH = 6
/** How far off something may be at most after that, in pixels of the frame. */
const MOST_AWAY = (FIRST_SEARCH + HALVINGS) * 2 ** HALVINGS
/** How much more alike a pixel farther must be, of what noise of deviation 1 makes of a square. */
const STAY = 2
/** Squares beyond the frame. */
const EDGE = 2

/** A picture halved so often; the first is itself. */
function halves(colour: Node, { width, height }: Size): Node[] {
  const all = [colour]
  let window: Box = boxOf(width, height)
  for (let i = 0; i < HALVINGS; i++) {
    const small = halvedSoft(all.at(-1)!, true, window)
    all.push(small)
    window = boxOf(small.window.right, small.window.bottom)
  }
  return all
}

/**
 * How far parts of a picture are off in another, of which both fill the frame; noise of both has a deviation of about 1.
 */
function blocksOf(colour: Node, other: Node, size: Size): Node {
  const [own, others] = [halves(colour, size), halves(other, size)]
  let start: Node | undefined
  for (let level = HALVINGS; level >= 0; level--) {
    const most = Math.floor(MOST_AWAY / 2 ** level)
    const reach = most + BLOCK_ROUND + (EDGE + 1) * BLOCK_SIDE
    const { right: width, bottom: height } = own[level]!.window
    const search = level === HALVINGS ? FIRST_SEARCH : 1
    const at: Node | undefined = start
    start = kernelNode(
      MatchBlocks,
      {
        source: inRoom(own[level]!, { width, height }, reach).source,
        other: inRoom(others[level]!, { width, height }, reach).source,
        start: at,
        ...{ search, most, stay: STAY },
      },
      {
        // The larger squares that one at the edge asks are there, too
        window: grown(boxOf(Math.ceil(width / BLOCK_SIDE), Math.ceil(height / BLOCK_SIDE)), EDGE),
        needs: (area, input) =>
          input === 2 ? askedBlocks(area) : seenPixels(area, input === 0 ? BLOCK_ROUND : most + BLOCK_ROUND),
      },
    )
  }
  return start!
}
const seenPixels = ({ left, top, right, bottom }: Box, round: number): Box =>
  grown(
    { left: left * BLOCK_SIDE, top: top * BLOCK_SIDE, right: right * BLOCK_SIDE, bottom: bottom * BLOCK_SIDE },
    round,
  )

/** A picture brought to where another shows the same things. like: what both are compared by; noise of it deviates by 1. */
export function broughtFrom(picture: Node, like: { own: Node; other: Node }, size: Size): Node {
  const frame = boxOf(size.width, size.height)
  return kernelNode(
    FromBlocks,
    { source: inRoom(picture, size, MOST_AWAY).source, blocks: blocksOf(like.own, like.other, size), most: MOST_AWAY },
    { window: frame, needs: (area, input) => (input === 0 ? grown(area, MOST_AWAY) : blocksAbout(area)) },
  )
}
const askedBlocks = ({ left, top, right, bottom }: Box): Box => ({
  left: (left >> 1) - 1,
  top: (top >> 1) - 1,
  right: ((right - 1) >> 1) + 2,
  bottom: ((bottom - 1) >> 1) + 2,
})
const blocksAbout = ({ left, top, right, bottom }: Box): Box => ({
  left: Math.floor(left / BLOCK_SIDE),
  top: Math.floor(top / BLOCK_SIDE),
  right: Math.ceil(right / BLOCK_SIDE),
  bottom: Math.ceil(bottom / BLOCK_SIDE),
})
