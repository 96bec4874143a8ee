// The picture of a card at a place of it, as wide as what looks at it.
import { straight } from './between'
import { HALF, ONE, TWO } from './constants'
import * as L from './layout'
import { Raster } from './raster'


@inline
function pictureAt(a: Raster, b: Raster, c: Raster, d: Raster, e: Raster, step: i32): Raster {
  return step == 0 ? a : step == 1 ? b : step == 2 ? c : step == 3 ? d : e
}

/** Nearer to the card than this, metres, nothing of it is between: it touches there. */
const TOUCHES: f32 = 1e-4

/** Where four rays meet a card: how far along each, how high above its foot, and the places of its picture. */
export let cardWay: v128 = i32x4.splat(0)
export let cardHigh: v128 = i32x4.splat(0)
export let cardU: v128 = i32x4.splat(0)
export let cardV: v128 = i32x4.splat(0)

/** Rays from x, y, z along wayX, wayY, wayZ to a card at its foot that faces faceX, faceZ (CARD_PLACE). */
@inline
export function meetCard(
  place: usize,
  x: v128,
  y: v128,
  z: v128,
  wayX: v128,
  wayY: v128,
  wayZ: v128,
  faceX: v128,
  faceZ: v128,
): void {
  const footX = v128.load32_splat(place, L.CARD_FOOT)
  const footZ = v128.load32_splat(place, L.CARD_FOOT + 8)
  const way = f32x4.div(
    f32x4.add(f32x4.mul(f32x4.sub(footX, x), faceX), f32x4.mul(f32x4.sub(footZ, z), faceZ)),
    f32x4.add(f32x4.mul(wayX, faceX), f32x4.mul(wayZ, faceZ)),
  )
  const offX = f32x4.sub(f32x4.add(x, f32x4.mul(way, wayX)), footX)
  const offZ = f32x4.sub(f32x4.add(z, f32x4.mul(way, wayZ)), footZ)
  const high = f32x4.sub(f32x4.add(y, f32x4.mul(way, wayY)), v128.load32_splat(place, L.CARD_FOOT + 4))
  const s = f32x4.sub(f32x4.mul(offX, faceZ), f32x4.mul(offZ, faceX))
  const t = f32x4.add(high, f32x4.mul(v128.load32_splat(place, L.CARD_RISE), s))
  cardWay = way
  cardHigh = high
  cardU = f32x4.add(
    f32x4.add(
      f32x4.mul(v128.load32_splat(place, L.CARD_MAP), s),
      f32x4.mul(v128.load32_splat(place, L.CARD_MAP + 4), t),
    ),
    v128.load32_splat(place, L.CARD_MAP + 8),
  )
  cardV = f32x4.add(
    f32x4.add(
      f32x4.mul(v128.load32_splat(place, L.CARD_MAP + 12), s),
      f32x4.mul(v128.load32_splat(place, L.CARD_MAP + 16), t),
    ),
    v128.load32_splat(place, L.CARD_MAP + 20),
  )
}

/** After meetCard: which of them meet its picture, as wide as they are there. */
@inline
export function meetsPicture(place: usize, wide: v128): v128 {
  return v128.and(
    f32x4.gt(cardWay, f32x4.splat(TOUCHES)),
    v128.and(
      v128.and(
        f32x4.gt(cardU, f32x4.sub(v128.load32_splat(place, L.CARD_BOUNDS), wide)),
        f32x4.lt(cardU, f32x4.add(v128.load32_splat(place, L.CARD_BOUNDS + 8), wide)),
      ),
      v128.and(
        f32x4.gt(cardV, f32x4.sub(v128.load32_splat(place, L.CARD_BOUNDS + 4), wide)),
        f32x4.lt(cardV, f32x4.add(v128.load32_splat(place, L.CARD_BOUNDS + 12), wide)),
      ),
    ),
  )
}

/** Between two pictures the one is as near as the other at the root of two. */
const BETWEEN: f32 = 1.4142

/** About a place (pixels of the first, middles at a half), so many pixels wide: from the one whose pixels are as wide. */
export function onCard(a: Raster, b: Raster, c: Raster, d: Raster, e: Raster, u: f32, v: f32, wide: f32): v128 {
  let step: i32 = 0
  let size: f32 = ONE
  while (step < L.CARD_LEVELS - 1 && wide > size * BETWEEN) {
    size *= TWO
    step++
  }
  return straight(pictureAt(a, b, c, d, e, step), u / size - HALF, v / size - HALF, 0)
}


@inline
function alphaOf(source: Raster, x: i32, y: i32): f32 {
  if (x < source.left || y < source.top || x >= source.right || y >= source.bottom) return 0
  return load<f32>(source.colour(x, y), 12)
}

/** How much it covers there: from the one whose pixels are about as wide. */
export function alphaOn(a: Raster, b: Raster, c: Raster, d: Raster, e: Raster, u: f32, v: f32, wide: f32): f32 {
  let step: i32 = 0
  let size: f32 = ONE
  while (step < L.CARD_LEVELS - 1 && wide > size * BETWEEN) {
    size *= TWO
    step++
  }
  const source = pictureAt(a, b, c, d, e, step)
  const x = u / size - HALF
  const y = v / size - HALF
  const column = <i32>floor<f32>(x)
  const line = <i32>floor<f32>(y)
  const fx = x - <f32>column
  const fy = y - <f32>line
  let first: f32
  let second: f32
  let third: f32
  let fourth: f32
  if (column >= source.left && line >= source.top && column + 1 < source.right && line + 1 < source.bottom) {
    const at = source.colour(column, line)
    const below = at + ((<usize>source.stride) << 4)
    first = load<f32>(at, 12)
    second = load<f32>(at, 28)
    third = load<f32>(below, 12)
    fourth = load<f32>(below, 28)
  } else {
    first = alphaOf(source, column, line)
    second = alphaOf(source, column + 1, line)
    third = alphaOf(source, column, line + 1)
    fourth = alphaOf(source, column + 1, line + 1)
  }
  const upper = first + (second - first) * fx
  return upper + (third + (fourth - third) * fx - upper) * fy
}
