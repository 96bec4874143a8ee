// What a card takes of lights at places of the ground: four places of a light at a time (CARD_LIGHTS).
import * as L from './layout'
import { alphaOn, cardU, cardV, cardWay, meetCard, meetsPicture } from './onCard'
import { Raster } from './raster'

/** Whence the light comes, not of length 1. */
let wayX: v128 = i32x4.splat(0)
let wayY: v128 = i32x4.splat(0)
let wayZ: v128 = i32x4.splat(0)

/** How much of each of a light's places falls at four places of such normals, without its colour. */
@inline
export function falling(light: usize, x: v128, y: v128, z: v128, normalX: v128, normalY: v128, normalZ: v128): v128 {
  const zero = f32x4.splat(0)
  const isPlace = v128.load(light, 48)
  wayX = f32x4.sub(v128.load(light), f32x4.mul(isPlace, x))
  wayY = f32x4.sub(v128.load(light, 16), f32x4.mul(isPlace, y))
  wayZ = f32x4.sub(v128.load(light, 32), f32x4.mul(isPlace, z))
  const far2 = f32x4.add(f32x4.add(f32x4.mul(wayX, wayX), f32x4.mul(wayY, wayY)), f32x4.mul(wayZ, wayZ))
  const over = f32x4.div(f32x4.splat(1), f32x4.sqrt(far2))
  const falls = f32x4.mul(
    f32x4.add(f32x4.add(f32x4.mul(wayX, normalX), f32x4.mul(wayY, normalY)), f32x4.mul(wayZ, normalZ)),
    over,
  )
  const leaves = f32x4.mul(
    f32x4.add(
      f32x4.add(f32x4.mul(wayX, v128.load(light, 64)), f32x4.mul(wayY, v128.load(light, 80))),
      f32x4.mul(wayZ, v128.load(light, 96)),
    ),
    over,
  )
  return f32x4.mul(
    f32x4.mul(f32x4.max(zero, falls), f32x4.add(v128.load(light, 112), f32x4.max(zero, f32x4.neg(leaves)))),
    f32x4.mul(over, over),
  )
}

/** How much of what falls there goes through the card's cover. After falling, of the same places. */
@inline
export function taken(
  place: usize,
  light: usize,
  falls: v128,
  x: v128,
  y: v128,
  z: v128,
  a: Raster,
  b: Raster,
  c: Raster,
  d: Raster,
  e: Raster,
): v128 {
  const zero = f32x4.splat(0)
  meetCard(place, x, y, z, wayX, wayY, wayZ, v128.load(light, 192), v128.load(light, 208))
  const wide = f32x4.mul(f32x4.mul(cardWay, v128.load(light, 176)), v128.load32_splat(place, L.CARD_DENSE))
  const inside = v128.and(
    meetsPicture(place, wide),
    v128.and(f32x4.lt(f32x4.mul(cardWay, v128.load(light, 48)), f32x4.splat(1)), f32x4.gt(falls, zero)),
  )
  if (!v128.any_true(inside)) return zero
  const u = cardU
  const v = cardV
  let cover = zero
  if (i32x4.extract_lane(inside, 0))
    cover = f32x4.replace_lane(
      cover,
      0,
      alphaOn(a, b, c, d, e, f32x4.extract_lane(u, 0), f32x4.extract_lane(v, 0), f32x4.extract_lane(wide, 0)),
    )
  if (i32x4.extract_lane(inside, 1))
    cover = f32x4.replace_lane(
      cover,
      1,
      alphaOn(a, b, c, d, e, f32x4.extract_lane(u, 1), f32x4.extract_lane(v, 1), f32x4.extract_lane(wide, 1)),
    )
  if (i32x4.extract_lane(inside, 2))
    cover = f32x4.replace_lane(
      cover,
      2,
      alphaOn(a, b, c, d, e, f32x4.extract_lane(u, 2), f32x4.extract_lane(v, 2), f32x4.extract_lane(wide, 2)),
    )
  if (i32x4.extract_lane(inside, 3))
    cover = f32x4.replace_lane(
      cover,
      3,
      alphaOn(a, b, c, d, e, f32x4.extract_lane(u, 3), f32x4.extract_lane(v, 3), f32x4.extract_lane(wide, 3)),
    )
  return f32x4.mul(falls, cover)
}


@inline
export function sumOf(value: v128): f32 {
  return (
    f32x4.extract_lane(value, 0) +
    f32x4.extract_lane(value, 1) +
    f32x4.extract_lane(value, 2) +
    f32x4.extract_lane(value, 3)
  )
}
