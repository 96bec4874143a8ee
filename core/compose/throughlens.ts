// Pictures bent as the lens of a shot bends them, or straightened.
import { grown, type Box } from '../engine/box'
import { bend, straighten, type Lens as LensTerms } from '../match/lens'
import { kernelNode, type Node } from '../plan/node'
import { boxOfSize, type Size } from '../plan/size'
import { NO_DEPTH } from '../render/passes'
import { Lens, LensSingle } from '../../kernels/records'

/** Bent into the frame as the lens would have it, or straightened into the working frame. */
export function throughLens(source: Node, from: Size, to: Size, lens: LensTerms, bent: boolean, smooth = false): Node {
  const middle = (size: Size): [number, number] => [
    (size.left + size.frameWidth / 2) / size.shrink,
    (size.top + size.frameHeight / 2) / size.shrink,
  ]
  const [middleX, middleY] = middle(to)
  const [sourceX, sourceY] = middle(from)
  const half = to.frameWidth / 2 / to.shrink
  const k1 = Math.fround(lens.k1)
  const k2 = Math.fround(lens.k2)
  const frame = { width: to.frameWidth / to.shrink, height: to.frameHeight / to.shrink }
  /** Where a place of the result comes from. */
  const origin = (x: number, y: number): [number, number] => {
    const place = [x - middleX + frame.width / 2, y - middleY + frame.height / 2] as const
    const [sx, sy] = (bent ? straighten : bend)({ k1, k2 }, frame, place)
    return [sx - frame.width / 2 + sourceX, sy - frame.height / 2 + sourceY]
  }
  const given = { source, middleX, middleY, half, sourceX, sourceY, sourceHalf: half, k1, k2, bent: bent ? 1 : 0 }
  const options = { window: boxOfSize(to), needs: (area: Box) => boxThrough(area, origin) }
  return source.pixel === 'single'
    ? kernelNode(LensSingle, { ...given, smooth: smooth ? 1 : 0, nothing: smooth ? 0 : NO_DEPTH }, options)
    : kernelNode(Lens, given, options)
}

const LOOK_EVERY = 8
/** What an area needs of its source where each pixel comes from a place that changes smoothly. */
function boxThrough(area: Box, origin: (x: number, y: number) => readonly [number, number]): Box {
  let box: Box | undefined
  const steps = (first: number, last: number): number[] => {
    const count = Math.max(1, Math.ceil((last - first) / LOOK_EVERY))
    return Array.from({ length: count + 1 }, (_, i) => first + ((last - first) * i) / count)
  }
  const look = (x: number, y: number): void => {
    const [sx, sy] = origin(x, y)
    box = box
      ? {
          left: Math.min(box.left, sx),
          top: Math.min(box.top, sy),
          right: Math.max(box.right, sx),
          bottom: Math.max(box.bottom, sy),
        }
      : { left: sx, top: sy, right: sx, bottom: sy }
  }
  for (const y of steps(area.top, area.bottom)) {
    look(area.left, y)
    look(area.right, y)
  }
  for (const x of steps(area.left, area.right)) {
    look(x, area.top)
    look(x, area.bottom)
  }
  // Beside the axes a side may bulge between two places; by far less than it changes from one to the next
  return grown(
    {
      left: Math.floor(box!.left),
      top: Math.floor(box!.top),
      right: Math.ceil(box!.right),
      bottom: Math.ceil(box!.bottom),
    },
    LOOK_EVERY,
  )
}
