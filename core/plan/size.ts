import { boxOf, type Box } from '../engine/box'
import type { Overscan } from '../match/lens'

/** Pixels worked on; the frame and its corner in them in pixels of the full size. */
export interface Size {
  width: number
  height: number
  shrink: number
  left: number
  top: number
  frameWidth: number
  frameHeight: number
}

export const sized = ({ width, height, left, top }: Overscan, shrink: number): Size => ({
  width: Math.max(1, Math.floor(width / shrink)),
  height: Math.max(1, Math.floor(height / shrink)),
  shrink,
  left,
  top,
  frameWidth: width - 2 * left,
  frameHeight: height - 2 * top,
})
/** All that is worked on, in pixels of the full size. */
export const fullSize = ({ frameWidth, frameHeight, left, top }: Size): { width: number; height: number } => ({
  width: frameWidth + 2 * left,
  height: frameHeight + 2 * top,
})
export const boxOfSize = ({ width, height }: Size): Box => boxOf(width, height)
