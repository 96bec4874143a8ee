// What stands behind what a pixel shows: the nearest of what is farther round it. Of a pixel that shows several things,
// what stands alone close by; else in pictures made smaller by halves, of the farthest things alone.
import { Raster } from './raster'
import { HALF, ONE } from './constants'
import * as L from './layout'

/** Pixels of circle by which something must be farther to stand behind; the farther one has to look, the more. */
const FARTHER: f32 = 0.7
const FARTHER_A_PIXEL: f32 = 0.08
/** What is found counts when it has so much of the four cells round a place. */
const LEAST_FOUND: f32 = 0.05

/** Pictures made smaller by halves, at most (FAR_LEVELS in kernels/focusRecords.ts). */
const MOST_LEVELS: i32 = 7
/** It was found among the pixels close by. */
export const CLOSE_BY: i32 = MOST_LEVELS + 1
/** The picture of a level, from 1 on: they stand one behind the other among a kernel's arguments. */
@inline
export function levelAt(first: Raster, level: i32): Raster {
  return changetype<Raster>(changetype<usize>(first) + <usize>(level - 1) * offsetof<Raster>())
}
/** How much a pixel close by counts, by its distance: the nearest by far the most. */
@inline
export function closeness(dx: i32, dy: i32): f32 {
  const square = <f32>(dx * dx + dy * dy)
  return ONE / (square * square)
}
/** The level on which BehindCircle found it; CLOSE_BY. */
@inline
export function levelFound(found: usize): i32 {
  const said = load<f32>(found, 8)
  return said > <f32>L.FOUND_ON_LEVEL ? <i32>(said - <f32>L.FOUND_ON_LEVEL) : CLOSE_BY
}

/** Pixels of circle by which two things must differ for a pixel to be parted between them. */
export const LEAST_APART: f32 = 0.3

/** How much farther than the nearest close by something must be to stand behind it. */
@inline
export function leastBehind(nearest: f32): f32 {
  return nearest + FARTHER
}

/** Of the nearest thing that stands alone close by: its circle, and what is the mean of all there (glass before it too). */
export let nearCircle: f32 = 0
export let nearMean: f32 = 0
/** What all that stands behind it close by has in the middle. */
export let foundMean: f32 = 0

/** Looks for what stands alone close by: the nearest of it, and what is behind that. Whether both are there. */
export function findClose(alone: Raster, mean: Raster, own: f32, x: i32, y: i32): bool {
  const left = max(alone.left, x - L.CUT_REACH)
  const top = max(alone.top, y - L.CUT_REACH)
  const right = min(alone.right - 1, x + L.CUT_REACH)
  const bottom = min(alone.bottom - 1, y + L.CUT_REACH)
  nearCircle = own
  nearMean = own
  let any = false
  for (let qy = top; qy <= bottom; qy++)
    for (let qx = left; qx <= right; qx++) {
      const there = load<f32>(alone.single(qx, qy))
      if (there == <f32>L.NOT_ALONE || (any && there >= nearCircle)) continue
      any = true
      nearCircle = there
      nearMean = load<f32>(mean.single(qx, qy))
    }
  // What is seen of a thing nowhere alone is where it is itself
  if (!any || own < nearCircle - FARTHER) {
    nearCircle = own
    nearMean = own
  }
  const leastCircle = leastBehind(nearCircle)
  let sum: f32 = 0
  let means: f32 = 0
  let weights: f32 = 0
  for (let qy = top; qy <= bottom; qy++)
    for (let qx = left; qx <= right; qx++) {
      const there = load<f32>(alone.single(qx, qy))
      if (there <= leastCircle) continue
      const weight = closeness(qx - x, qy - y)
      sum += weight * there
      means += weight * load<f32>(mean.single(qx, qy))
      weights += weight
    }
  if (weights <= 0) return false
  foundCircle = sum / weights
  foundMean = means / weights
  return true
}

/** Of each level the cells that were looked at last, which a run of pixels shares: place, farthest, circles of all four. */
let held: usize = 0
const HELD_BYTES: usize = 32
export function initBehind(scratch: usize): void {
  held = scratch + L.SCRATCH_FOCUS
}
/** Another row, and another picture maybe: what was looked at last does not count. */
export function forgetCells(): void {
  for (let l: usize = 0; l <= <usize>MOST_LEVELS; l++) store<i32>(held + l * HELD_BYTES, i32.MIN_VALUE)
}

/** Level on which it was found (0: nowhere), and the mean circle of those of its four cells that count. */
export let foundLevel: i32 = 0
export let foundCircle: f32 = 0
/** Its cells and how much each counts, where `atLevel` says that there is something. */
export let foundX: i32 = 0
export let foundY: i32 = 0
export let weight0: f32 = 0
export let weight1: f32 = 0
export let weight2: f32 = 0
export let weight3: f32 = 0

/** A cell's place where a level has one: at the room's edge its last cells go on. */
@inline
export function acrossIn(level: Raster, x: i32): i32 {
  return max(level.left, min(level.right - 1, x))
}


@inline
export function downIn(level: Raster, y: i32): i32 {
  return max(level.top, min(level.bottom - 1, y))
}


@inline
function circleAt(level: Raster, x: i32, y: i32): f32 {
  return load<f32>(level.single(acrossIn(level, x), downIn(level, y)))
}

/** Looks for it. own: the pixel's circle. first: the first of the levels' pictures. */
export function findBehind(own: f32, mean: Raster, alone: Raster, first: Raster, x: i32, y: i32): void {
  foundLevel = 0
  const mixed = load<f32>(alone.single(x, y)) == <f32>L.NOT_ALONE
  // In focus nothing shows through, and so far about only as the circle reaches
  if (!mixed && abs<f32>(own) < 0.3) return
  if (mixed && findClose(alone, mean, own, x, y)) {
    foundLevel = CLOSE_BY
    return
  }
  const reach = abs<f32>(own) * 2 + 4
  let last = 1
  while (last < MOST_LEVELS && <f32>(1 << last) <= reach && levelAt(first, last + 1).there) last++
  // From the coarsest on: where that has nothing farther round a place, no finer one has
  for (let l = last; l > 0; l--) {
    const found = atLevel(levelAt(first, l), l, own, x, y)
    if (found == NOTHING_FARTHER) return
    // The finest that has it says what stands behind
    if (found == SOMETHING) foundLevel = l
  }
}

const NOTHING_FARTHER: i32 = 0
const TOO_LITTLE: i32 = 1
const SOMETHING: i32 = 2
/** What of a level stands behind a place. own: the circle there. */
export function atLevel(level: Raster, l: i32, own: f32, x: i32, y: i32): i32 {
  const scale = ONE / <f32>(1 << l)
  const px = (<f32>x + HALF) * scale - HALF
  const py = (<f32>y + HALF) * scale - HALF
  const cx = <i32>floor<f32>(px)
  const cy = <i32>floor<f32>(py)
  const cells = held + <usize>l * HELD_BYTES
  if (load<i32>(cells) != cx || load<i32>(cells, 4) != cy) {
    const a = circleAt(level, cx, cy)
    const b = circleAt(level, cx + 1, cy)
    const c = circleAt(level, cx, cy + 1)
    const d = circleAt(level, cx + 1, cy + 1)
    store<i32>(cells, cx)
    store<i32>(cells, cy, 4)
    store<f32>(cells, max(max(a, b), max(c, d)), 8)
    store<f32>(cells, a, 12)
    store<f32>(cells, b, 16)
    store<f32>(cells, c, 20)
    store<f32>(cells, d, 24)
  }
  const farthest = load<f32>(cells, 8)
  if (farthest <= own + FARTHER) return NOTHING_FARTHER
  const least = own + FARTHER + FARTHER_A_PIXEL * <f32>(1 << l)
  if (farthest <= least) return TOO_LITTLE
  const a = load<f32>(cells, 12)
  const b = load<f32>(cells, 16)
  const c = load<f32>(cells, 20)
  const d = load<f32>(cells, 24)
  const fx = px - <f32>cx
  const fy = py - <f32>cy
  const w0 = a > least ? (ONE - fx) * (ONE - fy) : 0
  const w1 = b > least ? fx * (ONE - fy) : 0
  const w2 = c > least ? (ONE - fx) * fy : 0
  const w3 = d > least ? fx * fy : 0
  const sum = w0 + w1 + w2 + w3
  if (sum < LEAST_FOUND) return TOO_LITTLE
  const one = ONE / sum
  weight0 = w0 * one
  weight1 = w1 * one
  weight2 = w2 * one
  weight3 = w3 * one
  foundX = cx
  foundY = cy
  foundCircle = 0
  if (w0 > 0) foundCircle += weight0 * a
  if (w1 > 0) foundCircle += weight1 * b
  if (w2 > 0) foundCircle += weight2 * c
  if (w3 > 0) foundCircle += weight3 * d
  return SOMETHING
}
