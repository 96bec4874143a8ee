// Angles in formulas.
import type { Term } from './term'

/** Sine of so many whole turns, to 1e-7 of the turn's own precision: folded to a quarter, then its series to the 11th power. */
export function sineOfTurns(turns: Term): Term {
  const t = turns.minus(turns.plus(0.5).floor())
  const folded = t.isAbove(0.25).choose(t.terms.constant(0.5).minus(t), t)
  const quarter = t.terms.constant(-0.25).isAbove(t).choose(t.terms.constant(-0.5).minus(t), folded)
  const x = quarter.times(2 * Math.PI)
  const square = x.times(x)
  return [-1 / 39916800, 1 / 362880, -1 / 5040, 1 / 120, -1 / 6, 1]
    .reduce((sum, next) => sum.times(square).plus(next), t.terms.constant(0))
    .times(x)
}
export const cosineOfTurns = (turns: Term): Term => sineOfTurns(turns.plus(0.25))

/** Degrees of a direction, 0 to 360 (approximation of the arc tangent 4.4.49 of AMS 55, to 2e-8 before rounding). */
export function degreesOf(x: Term, y: Term): Term {
  const [wide, high] = [x.absolute(), y.absolute()]
  const t = wide.atMost(high).over(wide.atLeast(high).atLeast(1e-12))
  const z = t.times(t)
  const series = [
    -0.0161657367, 0.0429096138, -0.07528964, 0.1065626393, -0.1420889944, 0.1999355085, -0.3333314528, 1,
  ].reduce((sum, next) => sum.times(z).plus(next), t.terms.constant(0.0028662257))
  const first = series.times(t).times(180 / Math.PI)
  const quarter = high.isAbove(wide).choose(first.terms.constant(90).minus(first), first)
  const half = x.isAtLeast(0).choose(quarter, quarter.terms.constant(180).minus(quarter))
  return y.isAtLeast(0).choose(half, half.terms.constant(360).minus(half))
}
