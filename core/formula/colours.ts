// Colours in formulas: by a matrix, and in OKLab (B. Ottosson, "A perceptual color space for image processing", 2020,
// for linear Rec.709).
import type { Matrix3 } from '../colour/matrix'
import { Colour, type Operand, type Term } from './term'

type Three = readonly [Operand, Operand, Operand]
const rowOf = ({ red, green, blue }: Colour, [r, g, b]: Three): Term =>
  red.times(r).plus(green.times(g)).plus(blue.times(b))

/** Rows of a matrix, each laid on a colour. */
export const byRows = (colour: Colour, red: Three, green: Three, blue: Three): Colour =>
  new Colour(rowOf(colour, red), rowOf(colour, green), rowOf(colour, blue))
const byMatrix = (colour: Colour, [a, b, c, d, e, f, g, h, i]: Matrix3): Colour =>
  byRows(colour, [a, b, c], [d, e, f], [g, h, i])

const TO_CONES: Matrix3 = [
  0.4122214708, 0.5363325363, 0.0514459929, 0.2119034982, 0.6806995451, 0.1073969566, 0.0883024619, 0.2817188376,
  0.6299787005,
]
const TO_LAB: Matrix3 = [
  0.2104542553, 0.793617785, -0.0040720468, 1.9779984951, -2.428592205, 0.4505937099, 0.0259040371, 0.7827717662,
  -0.808675766,
]
const FROM_LAB: Matrix3 = [
  1, 0.3963377774, 0.2158037573, 1, -0.1055613458, -0.0638541728, 1, -0.0894841775, -1.291485548,
]
const FROM_CONES: Matrix3 = [
  4.0767416621, -3.3077115913, 0.2309699292, -1.2684380046, 2.6097574011, -0.3413193965, -0.0041960863, -0.7034186147,
  1.707614701,
]

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
