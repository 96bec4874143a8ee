// Powers by single precision alone: exponent and mantissa of the base are scaled apart, so that the product does not lose the low
// bits of the logarithm. Logarithm by the atanh series, exponential by its Taylor series on [-1/2, 1/2].
import type { Term } from './term'

/** The float whose bits are a whole number. */
const bits = (whole: number): number => new Float32Array(Int32Array.of(whole).buffer)[0]!
const ROOT_OF_HALF = bits(0x3f3504f3)
const MANTISSA = bits(0x007fffff)
const LEAST_BASE = 1e-30
/** 3/2 2^23 and the bias of the exponent: a whole number added to it stands in the low bits. */
const IN_LOW_BITS = 12583039

/** Logarithm to base 2 in two parts, of what is positive; of 1 for the rest. */
function parted(base: Term): { positive: Term; e: Term; log: Term } {
  const { terms } = base
  const positive = terms.of('isAbove', base, LEAST_BASE)
  const safe = positive.choose(base, 1)
  // m in [0.7071, 1.4142), e such that base = m 2^e
  const shifted = terms.of('bitsMinus', safe, ROOT_OF_HALF)
  const e = terms.of('fromWhole', terms.of('bitsRight23', shifted))
  const m = terms.of('bitsPlus', terms.of('bitsAnd', shifted, MANTISSA), ROOT_OF_HALF)
  const s = m.minus(1).over(m.plus(1))
  const z = s.times(s)
  const series = [0.14285714, 0.2, 0.33333333].reduce(
    (sum, next) => z.times(sum).plus(next),
    terms.constant(0.11111111),
  )
  return { positive, e, log: s.times(z).times(series).plus(s).times(2.88539008) }
}

/** In operations that the machine has; that of the least base for what is less. */
export function logarithmOf(base: Term): Term {
  const { positive, e, log } = parted(base)
  return positive.choose(e.plus(log), Math.log2(LEAST_BASE))
}

/** base^exponent in operations that the machine has; 0 for a base of 0 or less. */
export function powerOf(base: Term, exponent: Term): Term {
  const { terms } = base
  const { positive, e, log } = parted(base)
  const held = (whole: Term): Term => terms.of('greater', -126, terms.of('lesser', 127, whole))
  const high = held(e.times(exponent))
  const whole = terms.of('nearest', high)
  const rest = high.minus(whole).plus(log.times(exponent))
  const more = terms.of('nearest', rest)
  const f = rest.minus(more).times(0.69314718)
  const p = [0.0013888889, 0.0083333333, 0.041666667, 0.16666667, 0.5].reduce(
    (sum, next) => f.times(sum).plus(next),
    terms.constant(0.0001984127),
  )
  const exponential = f.times(f).times(p).plus(f.plus(1))
  // Between -126 and 127 by now, but for sums at the very ends: those saturate
  const scale = terms.of('bitsLeft23', held(whole.plus(more)).plus(IN_LOW_BITS))
  return terms.of('bitsAnd', exponential.times(scale), positive)
}
