// Softening by a bell. Small ones are summed up tap by tap, along rows and then along columns; large ones on a picture
// made smaller by halves first, so that the cost does not grow with the radius. All of it stands on whole pixels of the
// frame: the result of a pixel is the same to the bit whatever part of the picture is asked for.
import { boxOf, common, grown, holds, type Box } from '../engine/box'
import { BlurColumns, BlurRows, Doubled, Halve, Shift } from '../../kernels/records'
import { kernelNode, type Node } from './node'

/** From this standard deviation on the picture is halved: what is lost is under two thousandths of the picture's range. */
const MOST_SIGMA = 16
/** Taps reach so many standard deviations: what is beyond is 6e-5 of it. */
export const REACH = 4

/** Weights of the middle tap and those beside it, for one side, summing up to 1 over both. */
export function gaussianTaps(sigma: number): Float32Array {
  const reach = Math.max(1, Math.ceil(sigma * REACH))
  const taps = Array.from({ length: reach + 1 }, (_, i) => Math.exp(-(i * i) / (2 * sigma * sigma)))
  const sum = taps.reduce((total, tap, i) => total + (i ? 2 * tap : tap), 0)
  return Float32Array.from(taps, tap => tap / sum)
}

/**
 * A picture softened by a bell of a standard deviation in its pixels. Where it fills the frame it goes on beyond its
 * edge as in a mirror; else there is nothing round it, and it grows as far as the frame reaches.
 */
export function gaussian(source: Node, sigma: number, { width, height }: { width: number; height: number }): Node {
  if (sigma < 0.05) return source
  const frame = boxOf(width, height)
  const fills = holds(source.window, frame)
  return soft(source, sigma, fills, fills ? frame : common(frame, grown(source.window, Math.ceil(sigma * REACH) + 2)))
}

function soft(source: Node, sigma: number, fills: boolean, window: Box): Node {
  if (sigma <= MOST_SIGMA) {
    const weights = gaussianTaps(sigma)
    const reach = weights.length - 1
    const edge = fills ? 1 : 0
    const between: Box = { ...window, top: source.window.top, bottom: source.window.bottom }
    const rows = kernelNode(
      BlurRows,
      { source, weights, reach, edge },
      { window: between, needs: area => grownBy(area, reach, 0, source.window, fills) },
    )
    return kernelNode(
      BlurColumns,
      { source: rows, weights, reach, edge },
      { window, needs: area => grownBy(area, 0, reach, rows.window, fills) },
    )
  }
  const rest = Math.sqrt(Math.max(1, sigma * sigma - HALVED_SPREAD)) / 2
  const target = pairs(window)
  const smallWindow: Box = {
    left: target.left / 2 - (fills ? 0 : 1),
    top: target.top / 2 - (fills ? 0 : 1),
    right: target.right / 2 + (fills ? 0 : 1),
    bottom: target.bottom / 2 + (fills ? 0 : 1),
  }
  const small = halved(source, fills, window)
  return doubled(soft(small, rest, fills, fills ? small.window : smallWindow), fills, window)
}

/** Halving and the way back widen a bell themselves: by 1/4 of a pixel's square here, 2/3 there (in larger pixels). */
const HALVED_SPREAD = 0.25 + 2 / 3

/** Half as large, on whole pairs of pixels. fills, window: as of what is to come of it. */
function halved(source: Node, fills: boolean, window: Box): Node {
  const even = { ...pairs(source.window), ...(fills ? pairs(window) : {}) }
  const padded = fills || sameWindow(source.window, even) ? source : padding(source, even)
  return kernelNode(
    Halve,
    { source: padded },
    {
      window: { left: even.left / 2, top: even.top / 2, right: even.right / 2, bottom: even.bottom / 2 },
      needs: ({ left, top, right, bottom }) => ({ left: left * 2, top: top * 2, right: right * 2, bottom: bottom * 2 }),
    },
  )
}
/** Twice as large. */
export const doubled = (source: Node, fills: boolean, window: Box): Node =>
  kernelNode(
    Doubled,
    { source, edge: fills ? 1 : 0 },
    {
      window,
      needs: area => ({
        left: Math.floor(area.left / 2) - 1,
        top: Math.floor(area.top / 2) - 1,
        right: Math.ceil(area.right / 2) + 1,
        bottom: Math.ceil(area.bottom / 2) + 1,
      }),
    },
  )

/** On whole pairs of pixels, which halves stand on. */
export const pairs = ({ left, top, right, bottom }: Box): Box => ({
  left: Math.floor(left / 2) * 2,
  top: Math.floor(top / 2) * 2,
  right: Math.ceil(right / 2) * 2,
  bottom: Math.ceil(bottom / 2) * 2,
})
const sameWindow = (a: Box, b: Box): boolean => holds(a, b) && holds(b, a)
/** The same with nothing round it. */
export const padding = (source: Node, window: Box): Node =>
  kernelNode(Shift, { source, dx: 0, dy: 0 }, { window, needs: area => area })

/** What taps of a reach need; where the picture goes on beyond its edge as in a mirror, what is seen there. */
function grownBy({ left, top, right, bottom }: Box, across: number, down: number, window: Box, fills: boolean): Box {
  const box = { left: left - across, top: top - down, right: right + across, bottom: bottom + down }
  if (!fills) return box
  return {
    left: Math.min(box.left, 2 * window.right - box.right),
    top: Math.min(box.top, 2 * window.bottom - box.bottom),
    right: Math.max(box.right, 2 * window.left - box.left),
    bottom: Math.max(box.bottom, 2 * window.top - box.top),
  }
}
