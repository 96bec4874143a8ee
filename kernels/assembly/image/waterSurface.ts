// Waves on water: as many sines as are given, each as far as a pixel tells it; what is finer is told as how much slopes vary.
import { WaterSurfaceArguments } from '../../build/arguments'
import { HALF, ONE } from '../constants'
import * as L from '../layout'
import { powersOfTwo } from '../exponent'
import { lookAlong, metresToLevel, wayX, wayY, wayZ } from '../waterPlace'

const TURN: f32 = 6.2831855
/** A wave is lost in a pixel as in a Gaussian half a pixel wide; e^x by 2^x. */
const LOST: f32 = HALF * HALF * HALF * 1.442695

/** Sines of four angles: to within a turn, then a series (Abramowitz and Stegun 4.3.97, error 2e-9 before float32). */
@inline
function sines(angle: v128): v128 {
  // To -1/4..1/4 of a turn, mirrored about it
  const turns = f32x4.mul(angle, f32x4.splat(ONE / TURN))
  let t = f32x4.sub(turns, f32x4.nearest(turns))
  const beyond = f32x4.gt(f32x4.abs(t), f32x4.splat(0.25))
  const folded = f32x4.sub(v128.or(f32x4.splat(HALF), v128.and(t, f32x4.splat(-0.0))), t)
  t = v128.bitselect(folded, t, beyond)
  const x = f32x4.mul(t, f32x4.splat(TURN))
  const s = f32x4.mul(x, x)
  let sum = f32x4.splat(2.7526e-6)
  sum = f32x4.add(f32x4.mul(sum, s), f32x4.splat(-1.98409e-4))
  sum = f32x4.add(f32x4.mul(sum, s), f32x4.splat(8.3333315e-3))
  sum = f32x4.add(f32x4.mul(sum, s), f32x4.splat(-0.16666666))
  return f32x4.add(x, f32x4.mul(f32x4.mul(x, s), sum))
}


@inline
function summed(four: v128): f32 {
  return (
    f32x4.extract_lane(four, 0) +
    f32x4.extract_lane(four, 1) +
    f32x4.extract_lane(four, 2) +
    f32x4.extract_lane(four, 3)
  )
}


@final
@unmanaged
export class WaterSurface extends WaterSurfaceArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const place = this.place
    const zero = f32x4.splat(0)
    const eyeX = load<f32>(place, L.WATER_EYE)
    const eyeZ = load<f32>(place, L.WATER_EYE + 8)
    const high = load<f32>(place, L.WATER_EYE + 4) - load<f32>(place, L.WATER_LEVEL)
    const acrossX = load<f32>(place)
    const acrossY = load<f32>(place, 4)
    const acrossZ = load<f32>(place, 8)
    const downX = load<f32>(place, 12)
    const downY = load<f32>(place, 16)
    const downZ = load<f32>(place, 20)
    const end = this.waves + <usize>this.groups * L.WAVE_FOUR
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      lookAlong(place, <f32>x, <f32>y)
      const metres = metresToLevel(place)
      if (metres <= 0) {
        v128.store(to, zero)
        continue
      }
      const px = eyeX + wayX * metres
      const pz = eyeZ + wayZ * metres
      // What of the water a pixel is wide and high
      const over = metres / wayY
      const rightX = f32x4.splat(acrossX * metres - wayX * over * acrossY)
      const rightZ = f32x4.splat(acrossZ * metres - wayZ * over * acrossY)
      const lowX = f32x4.splat(downX * metres - wayX * over * downY)
      const lowZ = f32x4.splat(downZ * metres - wayZ * over * downY)
      let slopeX = zero
      let slopeZ = zero
      let rise = zero
      let finer = zero
      for (let wave = this.waves; wave < end; wave += L.WAVE_FOUR) {
        const kx = v128.load(wave)
        const kz = v128.load(wave, 16)
        const tall = v128.load(wave, 48)
        const angle = f32x4.add(
          f32x4.add(f32x4.mul(kx, f32x4.splat(px)), f32x4.mul(kz, f32x4.splat(pz))),
          v128.load(wave, 32),
        )
        const right = f32x4.add(f32x4.mul(kx, rightX), f32x4.mul(kz, rightZ))
        const low = f32x4.add(f32x4.mul(kx, lowX), f32x4.mul(kz, lowZ))
        const lost = f32x4.mul(f32x4.add(f32x4.mul(right, right), f32x4.mul(low, low)), f32x4.splat(-LOST))
        const seen = powersOfTwo(f32x4.max(f32x4.splat(-40), lost))
        const much = f32x4.mul(tall, seen)
        const cosine = sines(f32x4.add(angle, f32x4.splat(TURN / 4)))
        const slope = f32x4.mul(much, cosine)
        slopeX = f32x4.add(slopeX, f32x4.mul(kx, slope))
        slopeZ = f32x4.add(slopeZ, f32x4.mul(kz, slope))
        rise = f32x4.add(rise, f32x4.mul(much, sines(angle)))
        const steep = f32x4.mul(f32x4.mul(tall, tall), f32x4.add(f32x4.mul(kx, kx), f32x4.mul(kz, kz)))
        finer = f32x4.add(finer, f32x4.mul(steep, f32x4.sub(f32x4.splat(1), f32x4.mul(seen, seen))))
      }
      // Of both directions, each of which has half of half of the squares
      const vary = summed(finer) * <f32>0.25
      const lifted = max<f32>(1e-3, metres * (ONE - summed(rise) / high))
      v128.store(to, f32x4(summed(slopeX), summed(slopeZ), lifted, vary))
    }
  }
}
