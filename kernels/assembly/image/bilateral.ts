// Means of what is near and alike (C. Tomasi, R. Manduchi, "Bilateral Filtering for Gray and Color Images", ICCV 1998). A
// piece of the picture at a time is laid out channel by channel, so that four pixels in a row are weighed at once.
import { BilateralArguments } from '../../build/arguments'
import { powersOfTwo } from '../exponent'
import * as L from '../layout'

/** Pixels across of a piece; its rows are those of a band, at most so many. */
const ACROSS: i32 = 128
const DOWN: i32 = 16

let room: usize = 0
export function initBilateral(scratch: usize): void {
  room = scratch + L.SCRATCH_FOCUS
}


@inline
function squares(a: v128, b: v128): v128 {
  const d = f32x4.sub(a, b)
  return f32x4.mul(d, d)
}

// Red, green, blue and alpha of the four pixels laid out last
let red: v128 = f32x4.splat(0)
let green: v128 = f32x4.splat(0)
let blue: v128 = f32x4.splat(0)
let alpha: v128 = f32x4.splat(0)


@inline
function byChannel(a: v128, b: v128, c: v128, d: v128): void {
  const low = i32x4.shuffle(a, b, 0, 4, 1, 5)
  const high = i32x4.shuffle(c, d, 0, 4, 1, 5)
  red = i32x4.shuffle(low, high, 0, 1, 4, 5)
  green = i32x4.shuffle(low, high, 2, 3, 6, 7)
  const lower = i32x4.shuffle(a, b, 2, 6, 3, 7)
  const higher = i32x4.shuffle(c, d, 2, 6, 3, 7)
  blue = i32x4.shuffle(lower, higher, 0, 1, 4, 5)
  alpha = i32x4.shuffle(lower, higher, 2, 3, 6, 7)
}


@final
@unmanaged
export class Bilateral extends BilateralArguments {
  block(x0: i32, y0: i32, x1: i32, y1: i32): void {
    for (let y = y0; y < y1; y += DOWN)
      for (let x = x0; x < x1; x += ACROSS) this.piece(x, y, min(x1, x + ACROSS), min(y1, y + DOWN))
  }

  /** Its room holds red, green and blue as they are compared, then all four as they are summed. */
  piece(x0: i32, y0: i32, x1: i32, y1: i32): void {
    const radius = this.radius
    // The picture has three pixels more than it reaches, so that the last four are whole
    const across = ((x1 - x0 + 3) & ~3) + 2 * radius
    const pitch = (<usize>((across + 3) & ~3)) << 2
    const down = y1 - y0 + 2 * radius
    const plane = pitch * <usize>down
    for (let row = 0; row < down; row++) {
      const y = y0 - radius + row
      let from = this.source.colour(x0 - radius, y)
      let divided = this.straight.colour(x0 - radius, y)
      let to = room + <usize>row * pitch
      let left = across
      for (; left > 0; left -= 4, from += 64, divided += 64, to += 16) {
        // Less than four are laid out again with those before them
        const back = left < 4 ? <usize>(4 - left) : 0
        from -= back << 4
        divided -= back << 4
        to -= back << 2
        byChannel(v128.load(divided), v128.load(divided, 16), v128.load(divided, 32), v128.load(divided, 48))
        v128.store(to, red)
        v128.store(to + plane, green)
        v128.store(to + plane * 2, blue)
        byChannel(v128.load(from), v128.load(from, 16), v128.load(from, 32), v128.load(from, 48))
        v128.store(to + plane * 3, red)
        v128.store(to + plane * 4, green)
        v128.store(to + plane * 5, blue)
        v128.store(to + plane * 6, alpha)
      }
    }
    for (let y = y0; y < y1; y++)
      for (let x = x0; x < x1; x += 4) {
        const at = room + <usize>(y - y0 + radius) * pitch + ((<usize>(x - x0 + radius)) << 2)
        this.four(at, pitch, plane, this.out.colour(x, y), min(4, x1 - x))
      }
  }

  four(at: usize, pitch: usize, plane: usize, to: usize, count: i32): void {
    const radius = this.radius
    const alike = f32x4.splat(this.alike)
    const spatial = this.spatial
    const r = v128.load(at)
    const g = v128.load(at + plane)
    const b = v128.load(at + plane * 2)
    let sumR = f32x4.splat(0)
    let sumG = sumR
    let sumB = sumR
    let sumA = sumR
    let weights = sumR
    for (let dy = -radius; dy <= radius; dy++) {
      const wide = <i32>floor<f32>(sqrt<f32>(<f32>(radius * radius - dy * dy)))
      let from = at + <usize>dy * pitch - ((<usize>wide) << 2)
      for (let dx = -wide; dx <= wide; dx++, from += 4) {
        let place = from
        let distance = squares(v128.load(place), r)
        place += plane
        distance = f32x4.add(distance, squares(v128.load(place), g))
        place += plane
        distance = f32x4.add(distance, squares(v128.load(place), b))
        const near = v128.load32_splat(spatial + ((<usize>(dx * dx + dy * dy)) << 2))
        const weight = f32x4.mul(near, powersOfTwo(f32x4.mul(distance, alike)))
        weights = f32x4.add(weights, weight)
        place += plane
        sumR = f32x4.add(sumR, f32x4.mul(v128.load(place), weight))
        place += plane
        sumG = f32x4.add(sumG, f32x4.mul(v128.load(place), weight))
        place += plane
        sumB = f32x4.add(sumB, f32x4.mul(v128.load(place), weight))
        place += plane
        sumA = f32x4.add(sumA, f32x4.mul(v128.load(place), weight))
      }
    }
    sumR = f32x4.div(sumR, weights)
    sumG = f32x4.div(sumG, weights)
    sumB = f32x4.div(sumB, weights)
    sumA = f32x4.div(sumA, weights)
    // Pixel by pixel again
    const low = i32x4.shuffle(sumR, sumG, 0, 4, 1, 5)
    const high = i32x4.shuffle(sumB, sumA, 0, 4, 1, 5)
    v128.store(to, i32x4.shuffle(low, high, 0, 1, 4, 5))
    if (count > 1) v128.store(to, i32x4.shuffle(low, high, 2, 3, 6, 7), 16)
    const lower = i32x4.shuffle(sumR, sumG, 2, 6, 3, 7)
    const higher = i32x4.shuffle(sumB, sumA, 2, 6, 3, 7)
    if (count > 2) v128.store(to, i32x4.shuffle(lower, higher, 0, 1, 4, 5), 32)
    if (count > 3) v128.store(to, i32x4.shuffle(lower, higher, 2, 3, 6, 7), 48)
  }
}
