// The picture of a card at a place of it, as wide as what looks at it.
import { straight } from './between'
import { HALF, ONE, TWO } from './constants'
import * as L from './layout'
import { Raster } from './raster'


@inline
function pictureAt(a: Raster, b: Raster, c: Raster, d: Raster, e: Raster, step: i32): Raster {
  return step == 0 ? a : step == 1 ? b : step == 2 ? c : step == 3 ? d : e
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
