// A copy of an element where it was brought to: its picture on black is given cover, fades in from its edges, dissolves in
// patches, and is lit by lamps.
import { ElementPartArguments } from '../../build/arguments'
import { HALF, ONE, TWO } from '../constants'
import { ELEMENT_LIGHT } from '../layout'
import { noise } from '../noise'

/** What is light covers at least so much of its brightness: what covers nothing stands nowhere. */
const LEAST: f32 = 1.0 / 1024
/** Patches go over the border of what is there within so much of the noise. */
const SOFT: f32 = 0.12


@inline
function eased(share: f32): f32 {
  const t = max<f32>(0, min<f32>(1, share))
  return t * t * (3 - TWO * t)
}


@final
@unmanaged
export class ElementPart extends ElementPartArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const zero = f32x4.splat(0)
    const black = this.black != 0
    const level = this.level
    const lifted = f32x4.splat(ONE / max<f32>(LEAST, ONE - level))
    const low = f32x4.add(this.first, f32x4.mul(this.low, f32x4.splat(<f32>y + HALF)))
    const right = this.right
    let from = this.source.colour(x0, y)
    let at = this.place.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, from += 16, at += 16, to += 16) {
      let value = v128.load(from)
      if (!v128.any_true(f32x4.ne(value, zero))) {
        v128.store(to, zero)
        continue
      }
      let cover = f32x4.extract_lane(value, 3)
      if (black) {
        // What reached over the picture's edge has a part of its alpha
        value = f32x4.mul(f32x4.max(zero, f32x4.sub(value, f32x4.splat(level * cover))), lifted)
        const bright = max<f32>(
          f32x4.extract_lane(value, 0),
          max<f32>(f32x4.extract_lane(value, 1), f32x4.extract_lane(value, 2)),
        )
        cover = min<f32>(1, bright * max<f32>(LEAST, this.hides))
      }
      const share = this.there(load<f32>(at) * this.across, load<f32>(at, 4) * this.down)
      value = f32x4.mul(value, this.light(f32x4.add(low, f32x4.mul(right, f32x4.splat(<f32>x + HALF)))))
      v128.store(to, f32x4.mul(f32x4.replace_lane(value, 3, cover), f32x4.splat(share)))
    }
  }

  /** How much of it is there at a place of its picture, 0..1 each way. */
  @inline
  there(u: f32, v: f32): f32 {
    let share: f32 = 1
    const edges = this.edges
    if (edges > 0) share = eased((min<f32>(u, ONE - u) * this.aspect) / edges) * eased(min<f32>(v, ONE - v) / edges)
    const gone = this.gone
    if (gone <= 0 || share <= 0) return share
    if (gone >= 1) return 0
    const px = u * this.aspect * this.patches
    const py = v * this.patches
    const seed = this.seed
    const sum =
      noise(px, py, 0, seed) +
      HALF * noise(px * TWO + HALF, py * TWO, HALF, seed + 1) +
      HALF * HALF * noise(px * 4, py * 4 + HALF, ONE, seed + 2)
    const level = max<f32>(0, min<f32>(1, HALF + sum * HALF))
    return share * eased((level + SOFT - gone * (ONE + SOFT)) / SOFT)
  }

  /** The light at a place of the world. */
  @inline
  light(place: v128): v128 {
    let sum = this.ambient
    const end = this.lights + <usize>this.count * ELEMENT_LIGHT
    for (let lamp = this.lights; lamp < end; lamp += ELEMENT_LIGHT) {
      const way = f32x4.sub(place, v128.load(lamp))
      const square = f32x4.mul(way, way)
      // Within the lamp it is no nearer than its border
      const far = max<f32>(
        f32x4.extract_lane(square, 0) + f32x4.extract_lane(square, 1) + f32x4.extract_lane(square, 2),
        load<f32>(lamp, 12),
      )
      sum = f32x4.add(sum, f32x4.mul(v128.load(lamp, 16), f32x4.splat(ONE / far)))
    }
    return sum
  }
}
