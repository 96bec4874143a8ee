// Colours in formulas: by a matrix, and in OKLab (core/colour/oklab.ts).
import type { Matrix3 } from '../colour/matrix'
import { FROM_CONES, FROM_LAB, TO_CONES, TO_LAB } from '../colour/oklab'
import { Colour, type Operand, type Term } from './term'

type Three = readonly [Operand, Operand, Operand]
const rowOf = ({ red, green, blue }: Colour, [r, g, b]: Three): Term =>
  red.times(r).plus(green.times(g)).plus(blue.times(b))

/** Rows of a matrix, each laid on a colour. */
export const byRows = (colour: Colour, red: Three, green: Three, blue: Three): Colour =>
  new Colour(rowOf(colour, red), rowOf(colour, green), rowOf(colour, blue))
const byMatrix = (colour: Colour, [a, b, c, d, e, f, g, h, i]: Matrix3): Colour =>
  byRows(colour, [a, b, c], [d, e, f], [g, h, i])

/** An odd power: of what is below nothing the same, below nothing. */
export function signedPower(value: Term, exponent: Operand): Term {
  const power = value.absolute().power(exponent)
  return value.isAtLeast(0).choose(power, value.terms.constant(0).minus(power))
}

/** Lightness, and a and b across, as red, green and blue of what is given back. */
export const toOklab = (colour: Colour): Colour =>
  byMatrix(
    byMatrix(colour, TO_CONES).map(cone => signedPower(cone, 1 / 3)),
    TO_LAB,
  )
export const fromOklab = (lab: Colour): Colour =>
  byMatrix(
    byMatrix(lab, FROM_LAB).map(cone => cone.times(cone).times(cone)),
    FROM_CONES,
  )

/** A table of `count` numbers read between its entries, by a place in it; beyond it its ends. */
export function between(table: (index: Term) => Term, place: Term, count: number): Term {
  const held = place.atLeast(0).atMost(count - 1)
  const first = held.floor().atMost(count - 2)
  const low = table(first)
  return low.plus(table(first.plus(1)).minus(low).times(held.minus(first)))
}

/** 0 below, 1 above, smooth between: of what is 0 at the low end and 1 at the high one. */
export function smooth(share: Term): Term {
  const t = share.atLeast(0).atMost(1)
  return t.times(t).times(t.terms.constant(3).minus(t).minus(t))
}

/**
 * A place on the circle, 0..4, that grows with the angle from x to y, found without an angle: a step of 1 for each
 * quarter, x / (|x| + |y|) between. 0 of nothing.
 */
export function quarters(x: Term, y: Term): Term {
  const share = x.over(x.absolute().plus(y.absolute()).atLeast(1e-12))
  const { terms } = share
  return y.isAtLeast(0).choose(terms.constant(1).minus(share), share.plus(3))
}
/** The angle in degrees, 0..360, of such a place. */
export function degreesOfQuarters(place: number): number {
  const x = place <= 2 ? 1 - place : place - 3
  const y = (1 - Math.abs(x)) * (place <= 2 ? 1 : -1)
  return ((Math.atan2(y, x) * 180) / Math.PI + 360) % 360
}
