// CIELAB (CIE 15:2004, for D65) and CIEDE2000 (G. Sharma, W. Wu, E. Dalal, "The CIEDE2000 color-difference formula", Color
// Res. Appl. 30 (2005), 21) in formulas. Hues stay vectors as long as they can: only one term needs an angle.
import { apply3, REC709, rgbToXyz } from '../colour/matrix'
import { degreesOf } from './angle'
import { byRows } from './colours'
import { Colour, type Term } from './term'

const TO_XYZ = rgbToXyz(REC709)
/** XYZ of white, by which each is divided. */
const WHITE = apply3(TO_XYZ, 1, 1, 1)
const EDGE = (6 / 29) ** 3
const SLOPE = (29 / 6) ** 2 / 3

/** L*, a*, b* of scene-linear Rec.709 whose white is 1, 1, 1. */
export function labOf([r, g, b]: readonly [number, number, number]): [number, number, number] {
  const [x, y, z] = apply3(TO_XYZ, r, g, b).map((value, i) => {
    const t = value / WHITE[i]!
    return t > EDGE ? Math.cbrt(t) : t * SLOPE + 4 / 29
  }) as [number, number, number]
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)]
}
/** The same, as red, green and blue of what is given back. */
export function labTerms(colour: Colour): Colour {
  const row = (i: number): [number, number, number] => [
    TO_XYZ[i * 3]! / WHITE[i]!,
    TO_XYZ[i * 3 + 1]! / WHITE[i]!,
    TO_XYZ[i * 3 + 2]! / WHITE[i]!,
  ]
  const {
    red: x,
    green: y,
    blue: z,
  } = byRows(colour, row(0), row(1), row(2)).map(t =>
    t.isAbove(EDGE).choose(t.power(1 / 3), t.times(SLOPE).plus(4 / 29)),
  )
  return new Colour(y.times(116).minus(16), x.minus(y).times(500), y.minus(z).times(200))
}

const lengthOf = (a: Term, b: Term): Term => a.times(a).plus(b.times(b)).root()

/** The root of C^7 / (C^7 + 25^7). */
function seventh(chroma: Term): Term {
  const c = chroma.over(25)
  const square = c.times(c)
  const power = square.times(square).times(square).times(c)
  return power.over(power.plus(1)).root()
}

/** Difference of two colours in CIELAB, all weights 1. */
export function ciede2000(one: Colour, other: Colour): Term {
  const { terms } = one.red
  const constant = (value: number): Term => terms.constant(value)
  const g = constant(1).minus(seventh(lengthOf(one.green, one.blue).plus(lengthOf(other.green, other.blue)).times(0.5)))
  const stretch = g.times(0.5).plus(1)
  const a1 = one.green.times(stretch)
  const a2 = other.green.times(stretch)
  const [b1, b2] = [one.blue, other.blue]
  const c1 = lengthOf(a1, b1)
  const c2 = lengthOf(a2, b2)
  const lightness = other.red.minus(one.red)
  const chroma = c2.minus(c1)
  // 2 sqrt(C1 C2) sin of half the angle between them, with its sign
  const cross = a1.times(b2).minus(b1.times(a2))
  const dot = a1.times(a2).plus(b1.times(b2))
  const width = c1.times(c2).minus(dot).atLeast(0).times(2).root()
  const hue = cross.isAtLeast(0).choose(width, constant(0).minus(width))

  const meanLightness = one.red.plus(other.red).times(0.5).minus(50)
  const meanChroma = c1.plus(c2).times(0.5)
  // The mean hue halves the smaller angle: the sum of both directions
  const sumX = a1.over(c1.atLeast(1e-9)).plus(a2.over(c2.atLeast(1e-9)))
  const sumY = b1.over(c1.atLeast(1e-9)).plus(b2.over(c2.atLeast(1e-9)))
  const long = lengthOf(sumX, sumY).atLeast(1e-9)
  const x = sumX.over(long)
  const y = sumY.over(long)
  const x2 = x.times(x).minus(y.times(y))
  const y2 = x.times(y).times(2)
  const x3 = x2.times(x).minus(y2.times(y))
  const y3 = y2.times(x).plus(x2.times(y))
  const x4 = x2.times(x2).minus(y2.times(y2))
  const y4 = x2.times(y2).times(2)
  const turned = (cosine: Term, sine: Term, degrees: number): Term =>
    cosine.times(Math.cos((degrees * Math.PI) / 180)).plus(sine.times(Math.sin((degrees * Math.PI) / 180)))
  const t = constant(1)
    .minus(turned(x, y, 30).times(0.17))
    .plus(x2.times(0.24))
    .plus(turned(x3, y3, -6).times(0.32))
    .minus(turned(x4, y4, 63).times(0.2))
  const square = meanLightness.times(meanLightness)
  const scaleLightness = square.times(0.015).over(square.plus(20).root()).plus(1)
  const scaleChroma = meanChroma.times(0.045).plus(1)
  const scaleHue = meanChroma.times(0.015).times(t).plus(1)
  const from = degreesOf(x, y).minus(275).over(25)
  const turn = constant(Math.E)
    .power(constant(0).minus(from.times(from)))
    .times((60 * Math.PI) / 180)
  // Sine up to 60 degrees
  const s = turn.times(turn)
  const sine = [1 / 362880, -1 / 5040, 1 / 120, -1 / 6, 1]
    .reduce((sum, next) => sum.times(s).plus(next), constant(0))
    .times(turn)
  const mixed = constant(0).minus(sine.times(seventh(meanChroma)).times(2))
  const l = lightness.over(scaleLightness)
  const c = chroma.over(scaleChroma)
  const h = hue.over(scaleHue)
  return l.times(l).plus(c.times(c)).plus(h.times(h)).plus(mixed.times(c).times(h)).atLeast(0).root()
}
