import { FocusPartsArguments } from '../../build/arguments'
import { ONE } from '../constants'
import * as L from '../layout'
import { CLOSE_BY, findClose, LEAST_APART, levelFound, nearCircle, nearMean } from '../behind'
import { ALIKE } from './circleAlone'

/** Floats that a step has at the head of the table (core/lens/focus.ts). */
const STEP_WORDS: usize = 4
/** What covers so much of a pixel that what is behind does not count. */
const ALL: f32 = 0.995

/** The steps behind which the last circle lay, and the last one behind it. */
let lastOwn = 0
let lastBehind = 0
/** That of the circle just asked for. */
let stepBelow = 0

/** The step of a circle with a fraction, such that the mixture of both steps spreads light as far as it does. */
function stepOf(table: usize, steps: i32, circle: f32, guess: i32): f32 {
  const size = abs<f32>(circle)
  // A neighbour's circle lies between the same two as a rule
  let low = guess
  let high = low + 1
  if (
    high >= steps ||
    size < load<f32>(table + <usize>low * STEP_WORDS * 4) ||
    size >= load<f32>(table + <usize>high * STEP_WORDS * 4)
  ) {
    low = 0
    high = steps - 1
  }
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (load<f32>(table + <usize>middle * STEP_WORDS * 4) <= size) low = middle
    else high = middle
  }
  if (high == low) return 0
  stepBelow = low
  const a = load<f32>(table + <usize>low * STEP_WORDS * 4)
  const b = load<f32>(table + <usize>high * STEP_WORDS * 4)
  const share = min<f32>(1, (size * size - a * a) / (b * b - a * a))
  const step = <f32>low + share
  return circle < 0 ? -step : step
}


@final @unmanaged
export class FocusParts extends FocusPartsArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const table = this.table
    const steps = this.steps
    let to = this.out.colour(x0, y)
    let circle = this.circle.single(x0, y)
    let means = this.mean.single(x0, y)
    let alone = this.alone.single(x0, y)
    let found = this.behind.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16, found += 16, circle += 4, means += 4, alone += 4) {
      const own = load<f32>(circle)
      const mean = load<f32>(means)
      const behind = load<f32>(found)
      let share: f32 = 1
      let before = own
      if (behind > <f32>L.NOT_ALONE && load<f32>(alone) == <f32>L.NOT_ALONE) {
        // Of what is mixed as much of the nearer thing as the mean lies toward it, from what is behind
        const close = levelFound(found) == CLOSE_BY
        if (!close) findClose(this.alone, this.mean, own, x, y)
        before = close ? load<f32>(found, 4) : nearCircle
        const nearest = close ? load<f32>(found, 8) : nearMean
        const far = close ? load<f32>(found, 12) : behind
        share = far - nearest > LEAST_APART ? (far - mean) / (far - nearest) : 1
        share = max<f32>(0, min<f32>(1, share))
        if (share > ALL) share = 1
      }
      const step = stepOf(table, steps, before, lastOwn)
      lastOwn = stepBelow
      let farther: f32 = <f32>L.NO_STEP
      if (behind > before + ALIKE) {
        // Steps of its own: where both were in one, what is hidden would thin out what is seen
        farther = min<f32>(<f32>(steps - 1), max<f32>(step + 2, stepOf(table, steps, behind, lastBehind)))
        lastBehind = stepBelow
        if (farther < step + 2) farther = <f32>L.NO_STEP
      }
      if (farther == <f32>L.NO_STEP) share = 1
      v128.store(to, f32x4(share, step, farther, 0))
    }
  }
}
