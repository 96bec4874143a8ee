// Distances to the pieces of drawn contours, four pixels at once, and what is made of them.
import { HALF, ONE } from './constants'

/** Bytes of a piece (PIECE in core/matte/drawn/tables.ts). */
export const PIECE: usize = 48
/** Where a piece tells the radius of its circle: 0 of a straight one. */
export const CIRCLE: usize = 44
/** Pixels of a cell's side, as a shift. */
export const CELL_SHIFT: i32 = 3


@inline
export function pieceOf(pieces: usize, list: usize): usize {
  return pieces + <usize>(<i32>load<f32>(list)) * PIECE
}
/** Where along a piece places are nearest to it: 0 its beginning, 1 its end. */
@inline
export function alongPiece(piece: usize, x: v128, y: v128): v128 {
  const dx = v128.load32_splat(piece, 8)
  const dy = v128.load32_splat(piece, 12)
  const t = f32x4.mul(f32x4.add(f32x4.mul(x, dx), f32x4.mul(y, dy)), v128.load32_splat(piece, 16))
  // One instruction each, where min and max look for numbers that are none
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), t))
}
/** A value that goes evenly along a piece. */
@inline
export function between(piece: usize, t: v128): v128 {
  return f32x4.add(v128.load32_splat(piece), f32x4.mul(t, v128.load32_splat(piece, 4)))
}
/** Square of the distance. x, y: from the beginning of the piece. */
@inline
export function squareFrom(piece: usize, x: v128, y: v128, t: v128): v128 {
  const ex = f32x4.sub(x, f32x4.mul(t, v128.load32_splat(piece, 8)))
  const ey = f32x4.sub(y, f32x4.mul(t, v128.load32_splat(piece, 12)))
  return f32x4.add(f32x4.mul(ex, ex), f32x4.mul(ey, ey))
}
/**
 * A soft edge: from `outer` pixels outside (0) to `inner` pixels within (1), over a pixel at least. far: pixels within.
 * Not yet held to 0..1.
 */
@inline
export function ramp(far: v128, outer: v128, inner: v128): v128 {
  const wide = f32x4.add(outer, inner)
  const width = f32x4.sqrt(f32x4.add(f32x4.mul(wide, wide), f32x4.splat(1)))
  const middle = f32x4.mul(f32x4.sub(inner, outer), f32x4.splat(HALF))
  return f32x4.add(f32x4.div(f32x4.sub(far, middle), width), f32x4.splat(HALF))
}


@inline
export function held(value: v128): v128 {
  return f32x4.min(f32x4.splat(1), f32x4.max(f32x4.splat(0), value))
}
/** t²(3 - 2t). */
@inline
export function smooth(t: v128): v128 {
  return f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t)))
}
/** How far an edge of such a width is drawn as a soft one: 0 of none, 1 from one and a half pixels on. */
@inline
export function softness(outer: v128, inner: v128): v128 {
  return smooth(held(f32x4.mul(f32x4.add(outer, inner), f32x4.splat(<f32>(1 / 1.5)))))
}
/** How much of a square of side 1 lies within a straight edge: its middle so far within, the edge across (nx, ny), a unit. */
export function halfPlane(far: f32, nx: f32, ny: f32): f32 {
  const a = max<f32>(abs<f32>(nx), abs<f32>(ny))
  const b = min<f32>(abs<f32>(nx), abs<f32>(ny))
  const most = (a + b) * HALF
  if (far >= most) return ONE
  if (far <= -most) return 0
  if (abs<f32>(far) <= (a - b) * HALF) return HALF + far / a
  const rest = most - abs<f32>(far)
  const corner = (rest * rest) / (2 * a * b)
  return far < 0 ? corner : ONE - corner
}
