// Anisotropic Kuwahara filter: an ellipse along what runs through a pixel is parted into eight sectors that overlap, and
// those that are most even count most. Source: J. E. Kyprianidis, H. Kang, J. Döllner, "Image and Video Abstraction by
// Anisotropic Kuwahara Filtering", Computer Graphics Forum 28(7), 2009; the sectors' polynomial weights are those of J. E.
// Kyprianidis, A. Semmo, H. Kang, J. Döllner, "Anisotropic Kuwahara Filtering with Polynomial Weighting Functions",
// TPCG 2010 (both from memory). Own: variances count in shares of the light about the pixel, so that exposure does not matter.
import { KuwaharaArguments } from '../../build/arguments'
import { HALF, ONE } from '../constants'
import { powerOfTwo } from '../exponent'
import * as L from '../layout'

// Sums of eight sectors: light, its square, weights
let means: usize = 0
let squares: usize = 0
let weights: usize = 0
let shares: usize = 0
export function initKuwahara(scratch: usize): void {
  means = scratch + L.SCRATCH_FOCUS
  squares = means + 128
  weights = squares + 128
  shares = weights + 32
}
/** Where a sector's weight is nothing: 3/8 of half a turn from its middle. */
const COSINE: f32 = 0.38268343
const SINE_SQUARE: f32 = 0.85355339
const DIAGONAL: f32 = 0.70710678
const LEAST_LIGHT: f32 = 0.02
/** -3.125 log2(e): the bell over an ellipse. */
const BELL: f32 = -4.508422


@inline
function sector(along: f32, across: f32, zeta: f32, eta: f32): f32 {
  const z = max<f32>(0, along + zeta - eta * across * across)
  return z * z
}


@final
@unmanaged
export class Kuwahara extends KuwaharaArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) v128.store(to, this.pixel(x, y))
  }

  pixel(x: i32, y: i32): v128 {
    const source = this.source
    const radius = this.radius
    const slopes = this.slopes.colour(x, y)
    const xx = load<f32>(slopes)
    const xy = load<f32>(slopes, 4)
    const yy = load<f32>(slopes, 8)
    // Along what runs through here: the lesser of the two directions of the slopes
    const root = sqrt<f32>((xx - yy) * (xx - yy) + 4 * xy * xy)
    const both = xx + yy
    const uneven: f32 = both > <f32>1e-12 ? root / both : 0
    let tx: f32 = xx - yy + root
    let ty: f32 = 2 * xy
    // That is the steeper one; across it runs what stands there
    const long = sqrt<f32>(tx * tx + ty * ty)
    if (long > <f32>1e-12) {
      const swap = tx / long
      tx = -ty / long
      ty = swap
    } else if (xx >= yy) {
      tx = 0
      ty = 1
    } else {
      tx = 1
      ty = 0
    }
    const stretch = ONE + uneven * this.stretch
    const a = radius * stretch
    const b = radius / stretch
    const zeta = <f32>2 / radius
    const eta = (zeta + COSINE) / SINE_SQUARE
    memory.fill(means, 0, 288)
    const reachX = <i32>ceil<f32>(sqrt<f32>(a * a * tx * tx + b * b * ty * ty))
    const reachY = <i32>ceil<f32>(sqrt<f32>(a * a * ty * ty + b * b * tx * tx))
    for (let dy = -reachY; dy <= reachY; dy++) {
      let from = source.colour(x - reachX, y + dy)
      for (let dx = -reachX; dx <= reachX; dx++, from += 16) {
        const u = (<f32>dx * tx + <f32>dy * ty) / a
        const v = (<f32>dy * tx - <f32>dx * ty) / b
        const square = u * u + v * v
        if (square > ONE) continue
        store<f32>(shares, sector(v, u, zeta, eta))
        store<f32>(shares, sector(-u, v, zeta, eta), 8)
        store<f32>(shares, sector(-v, u, zeta, eta), 16)
        store<f32>(shares, sector(u, v, zeta, eta), 24)
        const p = (u - v) * DIAGONAL
        const q = (u + v) * DIAGONAL
        store<f32>(shares, sector(q, p, zeta, eta), 4)
        store<f32>(shares, sector(-p, q, zeta, eta), 12)
        store<f32>(shares, sector(-q, p, zeta, eta), 20)
        store<f32>(shares, sector(p, q, zeta, eta), 28)
        let sum: f32 = 0
        for (let k = 0; k < 8; k++) sum += load<f32>(shares + ((<usize>k) << 2))
        if (sum <= 0) continue
        const bell = powerOfTwo(BELL * square) / sum
        const colour = v128.load(from)
        const again = f32x4.mul(colour, colour)
        for (let k: usize = 0; k < 8; k++) {
          const weight = load<f32>(shares + (k << 2)) * bell
          if (weight == 0) continue
          const w = f32x4.splat(weight)
          v128.store(means + (k << 4), f32x4.add(v128.load(means + (k << 4)), f32x4.mul(colour, w)))
          v128.store(squares + (k << 4), f32x4.add(v128.load(squares + (k << 4)), f32x4.mul(again, w)))
          store<f32>(weights + (k << 2), load<f32>(weights + (k << 2)) + weight)
        }
      }
    }
    let all = f32x4.splat(0)
    let total: f32 = 0
    for (let k: usize = 0; k < 8; k++) {
      const weight = load<f32>(weights + (k << 2))
      if (weight <= 0) continue
      const one = f32x4.splat(ONE / weight)
      const mean = f32x4.mul(v128.load(means + (k << 4)), one)
      const spread = f32x4.max(
        f32x4.splat(0),
        f32x4.sub(f32x4.mul(v128.load(squares + (k << 4)), one), f32x4.mul(mean, mean)),
      )
      const light =
        max<f32>(0, f32x4.extract_lane(mean, 0) + f32x4.extract_lane(mean, 1) + f32x4.extract_lane(mean, 2)) +
        LEAST_LIGHT
      const variance =
        (f32x4.extract_lane(spread, 0) + f32x4.extract_lane(spread, 1) + f32x4.extract_lane(spread, 2)) /
        (light * light)
      const even = ONE / (ONE + <f32>Math.pow(<f64>(variance * 1000), <f64>(this.sharpness * HALF)))
      all = f32x4.add(all, f32x4.mul(mean, f32x4.splat(even)))
      total += even
    }
    return total > 0 ? f32x4.mul(all, f32x4.splat(ONE / total)) : v128.load(source.colour(x, y))
  }
}
