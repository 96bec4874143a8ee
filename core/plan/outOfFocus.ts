// A picture out of focus by the distances of what it shows (kernels/assembly/image/focus.ts does it).
import { grown, type Box } from '../engine/box'
import type { Aperture } from '../lens/aperture'
import { circleSteps, circleTable, STEP_WORDS } from '../lens/focus'
import {
  Behind,
  BehindCircle,
  Circle,
  CircleAlone,
  FarHalve,
  FarHalveCircle,
  Focus,
  FocusParts,
  FocusSpan,
  MirroredSingle,
} from '../../kernels/records'
import { CUT_REACH, FOCUS_CELL, FOCUS_TILE } from '../../kernels/assembly/layout'
import { kernelNode, type Node } from './node'
import type { Picture } from './picture'
import { inRoom, seenIn } from './room'

export interface OutOfFocus {
  /** Radius of the circle of what is at infinity, pixels. */
  atInfinity: number
  /** Of the plane of focus, metres. */
  distance: number
  /** Largest radius of a circle, pixels. */
  most: number
  aperture: Aperture
}
/** Pictures made smaller by halves in which what is behind is looked for. */
const MOST_LEVELS = 7

/** Radius of the circle at each pixel, pixels; less than nothing before the plane of focus. */
export const circleNode = (metres: Node, { atInfinity, distance, most }: OutOfFocus): Node =>
  kernelNode(Circle, { depth: metres, atInfinity, distance, most }, { window: metres.window })

export function outOfFocus(
  picture: Picture,
  { width, height }: { width: number; height: number },
  how: OutOfFocus,
): Node {
  const { aperture, most } = how
  const steps = circleSteps(most)
  const table = circleTable(aperture, steps)
  const reach = reachOfTable(table, steps.length)
  // All that may be looked at lies in one larger picture, on whole squares of all levels
  const { source, window } = inRoom(picture.colour, { width, height }, reach, {
    onto: box => onCells(grown(box, CUT_REACH), 1 << MOST_LEVELS),
  })
  const room = source.window
  const circle = mirroredSingle(circleNode(picture.depth(), how), room)
  const mean = mirroredSingle(
    picture.byDepth(metres => circleNode(metres, how), true),
    room,
  )
  const alone = kernelNode(CircleAlone, { circle, mean }, { window: room, reach: 2 })
  const levels = farLevels(source, alone, most)
  const circles = Object.fromEntries(levels.map(({ circle }, i) => [`circle${i + 1}`, circle])) as Levels<'circle'>
  const colours = Object.fromEntries(levels.map(({ colour }, i) => [`colour${i + 1}`, colour])) as Levels<'colour'>
  /** circle, mean, alone, one circle a level; behind, source, one colour a level. */
  const needs = (area: Box, input: number): Box => {
    const own = grown(area, CUT_REACH)
    const level = input - 3 < levels.length ? input - 3 : input - 5 - levels.length
    if (level < 0) return own
    const by = 2 ** (level + 1)
    return grown(scaled(onCells(own, by), by), 1)
  }
  const behindCircle = kernelNode(BehindCircle, { circle, mean, alone, ...circles }, { window: room, needs })
  const behind = kernelNode(
    Behind,
    { circle, mean, alone, ...circles, behind: behindCircle, source, ...colours },
    { window: room, needs },
  )
  const told = [aperture, steps]
  const parts = kernelNode(
    FocusParts,
    { circle, mean, alone, behind: behindCircle, table, steps: steps.length },
    { window: room, reach: CUT_REACH, told },
  )
  const span = kernelNode(
    FocusSpan,
    { parts },
    { window: scaled(room, FOCUS_CELL), needs: area => times(area, FOCUS_CELL) },
  )
  return kernelNode(
    Focus,
    {
      source,
      parts,
      behind,
      span,
      table,
      steps: steps.length,
      catsEye: aperture.catsEye,
      middleX: width / 2,
      middleY: height / 2,
      corner: Math.hypot(width, height) / 2,
    },
    {
      window,
      told,
      needs: (area, input) => {
        const all = grown(onCells(area, FOCUS_TILE), reach)
        return input === 3 ? scaled(onCells(all, FOCUS_CELL), FOCUS_CELL) : all
      },
    },
  )
}

type Levels<Name extends string> = Record<`${Name}1` | `${Name}2`, Node>

/** The picture made smaller by halves, of the farthest things alone, with their circles. */
function farLevels(source: Node, alone: Node, most: number): { colour: Node; circle: Node }[] {
  const levels: { colour: Node; circle: Node }[] = []
  // So that what is half as far again as the largest circle reaches is still found
  const count = Math.min(MOST_LEVELS, Math.max(3, Math.ceil(Math.log2(most * 2 + 4)) + 1))
  for (let level = 1; level <= count; level++) {
    const { colour, circle } = levels.at(-1) ?? { colour: source, circle: alone }
    const options = { window: scaled(colour.window, 2), needs: (area: Box) => times(area, 2) }
    // Pixels of circle by which a surface may slant away within as many pixels
    const within = 0.5 + 0.04 * 2 ** level
    levels.push({
      colour: kernelNode(FarHalve, { source: colour, circle, within }, options),
      circle: kernelNode(FarHalveCircle, { circle, within }, options),
    })
  }
  return levels
}

/** How far the largest circle reaches, with what cells of pictures made smaller reach beyond it. */
function reachOfTable(table: Float32Array, steps: number): number {
  let reach = 0
  for (let i = 0; i < steps; i++) {
    const [, halvings, half] = table.subarray(i * STEP_WORDS, (i + 1) * STEP_WORDS)
    reach = Math.max(reach, (half! + 2) << halvings!)
  }
  return reach
}

const mirroredSingle = (source: Node, window: Box): Node =>
  kernelNode(MirroredSingle, { source }, { window, needs: area => seenIn(area, source.window) })

/** Grown to whole squares of so many pixels. */
const onCells = ({ left, top, right, bottom }: Box, by: number): Box => ({
  left: Math.floor(left / by) * by,
  top: Math.floor(top / by) * by,
  right: Math.ceil(right / by) * by,
  bottom: Math.ceil(bottom / by) * by,
})
const scaled = ({ left, top, right, bottom }: Box, by: number): Box => ({
  left: left / by,
  top: top / by,
  right: right / by,
  bottom: bottom / by,
})
const times = (box: Box, by: number): Box => scaled(box, 1 / by)
