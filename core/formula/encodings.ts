// Curves of encodings in formulas: light to codes and back (core/colour/encoding.ts has their sources).
import { Colour, type Term } from './term'
import { byRows, signedPower } from './colours'
import { encodingOf, HLG, PQ } from '../colour/encoding'
import { inverse3, type Matrix3 } from '../colour/matrix'

/** One channel; values below nothing as the encoding has them. */
type Curve = (value: Term) => Term
interface Curves {
  encode: Curve
  decode: Curve
}
const odd =
  (curve: Curve): Curve =>
  value => {
    const code = curve(value.absolute())
    return value.isAtLeast(0).choose(code, value.terms.constant(0).minus(code))
  }
/** A power with a straight foot: light·slope below `foot`, (1 + a)·light^power - a above. */
const footed = (foot: number, slope: number, a: number, power: number): Curves => ({
  encode: odd(value =>
    value.isAbove(foot).choose(
      value
        .atLeast(foot)
        .power(power)
        .times(1 + a)
        .minus(a),
      value.times(slope),
    ),
  ),
  decode: odd(code => {
    const edge = foot * slope
    return code.isAbove(edge).choose(
      code
        .atLeast(edge)
        .plus(a)
        .times(1 / (1 + a))
        .power(1 / power),
      code.times(1 / slope),
    )
  }),
})
const plain: Curves = { encode: value => value, decode: code => code }
const srgb = footed(0.0031308, 12.92, 0.055, 1 / 2.4)
const camera = footed(0.018, 4.5, 0.099, 0.45)
/** Academy S-2016-001. */
const cct: Curves = {
  encode: value =>
    value.isAbove(0.0078125).choose(
      value
        .atLeast(0.0078125)
        .logarithm()
        .plus(9.72)
        .times(1 / 17.52),
      value.times(10.5402377416545).plus(0.0729055341958355),
    ),
  decode: code =>
    code
      .isAbove(0.155251141552511)
      .choose(
        code.terms.constant(2).power(code.atMost(1.468).times(17.52).minus(9.72)).atMost(65504),
        code.minus(0.0729055341958355).times(1 / 10.5402377416545),
      ),
}
/** SMPTE ST 2084; its numbers and white are those of core/colour/encoding.ts. */
const pq: Curves = {
  encode: odd(value => {
    const p = value.times(PQ.white / 10000).power(PQ.m1)
    return p.times(PQ.c2).plus(PQ.c1).over(p.times(PQ.c3).plus(1)).power(PQ.m2)
  }),
  decode: odd(code => {
    const p = code.power(1 / PQ.m2)
    return p
      .minus(PQ.c1)
      .atLeast(0)
      .over(p.atMost(1).times(-PQ.c3).plus(PQ.c2))
      .power(1 / PQ.m1)
      .times(10000 / PQ.white)
  }),
}
/** ITU-R BT.2100-2, table 5. */
const hlg: Curves = {
  encode: odd(value => {
    const light = value.times(HLG.white)
    return light.isAbove(1 / 12).choose(
      light
        .atLeast(1 / 12)
        .times(12)
        .minus(HLG.b)
        .logarithm()
        .times(HLG.a * Math.LN2)
        .plus(HLG.c),
      light.times(3).atLeast(0).root(),
    )
  }),
  decode: odd(code =>
    code
      .isAbove(0.5)
      .choose(
        code.terms
          .constant(2)
          .power(code.minus(HLG.c).times(1 / HLG.a / Math.LN2))
          .plus(HLG.b)
          .times(1 / 12),
        code.times(code).times(1 / 3),
      )
      .times(1 / HLG.white),
  ),
}
const CURVES: Readonly<Record<string, Curves>> = {
  srgb,
  p3: srgb,
  rec709: camera,
  rec2020: camera,
  bt1886: { encode: value => signedPower(value, 1 / 2.4), decode: code => signedPower(code, 2.4) },
  linear: plain,
  acescg: plain,
  aces2065: plain,
  acescct: cct,
  pq,
  hlg,
}
/** Those that there are formulas for. */
export const FORMULA_ENCODINGS = Object.keys(CURVES)

const byMatrix = (colour: Colour, [a, b, c, d, e, f, g, h, i]: Matrix3): Colour =>
  byRows(colour, [a, b, c], [d, e, f], [g, h, i])
/** Linear Rec.709 to the codes of an encoding. */
export function encoded(colour: Colour, id: string): Colour {
  const { toWorking } = encodingOf(id)
  return (toWorking ? byMatrix(colour, inverse3(toWorking)) : colour).map(CURVES[id]!.encode)
}
/** The codes of an encoding to linear Rec.709. */
export function decoded(codes: Colour, id: string): Colour {
  const { toWorking } = encodingOf(id)
  const light = codes.map(CURVES[id]!.decode)
  return toWorking ? byMatrix(light, toWorking) : light
}
