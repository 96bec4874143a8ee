import { Raster } from './raster'

/** What a picture has at a place between its pixels (their middles are whole): straight between the four about it. */
@inline
export function between(source: Raster, x: f32, y: f32): v128 {
  const column = <i32>floor<f32>(x)
  const line = <i32>floor<f32>(y)
  const fx = f32x4.splat(x - <f32>column)
  const fy = f32x4.splat(y - <f32>line)
  const at = source.colour(column, line)
  const below = at + ((<usize>source.stride) << 4)
  const a = v128.load(at)
  const c = v128.load(below)
  const upper = f32x4.add(a, f32x4.mul(f32x4.sub(v128.load(at, 16), a), fx))
  const lower = f32x4.add(c, f32x4.mul(f32x4.sub(v128.load(below, 16), c), fx))
  return f32x4.add(upper, f32x4.mul(f32x4.sub(lower, upper), fy))
}

/** A pixel; beyond the picture the last one where it goes on (edge 1), or nothing. */
@inline
export function pick(source: Raster, x: i32, y: i32, edge: i32): v128 {
  if (edge) {
    x = max(source.left, min(source.right - 1, x))
    y = max(source.top, min(source.bottom - 1, y))
  } else if (x < source.left || y < source.top || x >= source.right || y >= source.bottom) return i32x4.splat(0)
  return v128.load(source.colour(x, y))
}

/** As between, also at the picture's edge and beyond. */
@inline
export function straight(source: Raster, x: f32, y: f32, edge: i32): v128 {
  const column = <i32>floor<f32>(x)
  const line = <i32>floor<f32>(y)
  if (column >= source.left && line >= source.top && column + 1 < source.right && line + 1 < source.bottom)
    return between(source, x, y)
  const fx = f32x4.splat(x - <f32>column)
  const fy = f32x4.splat(y - <f32>line)
  const a = pick(source, column, line, edge)
  const b = pick(source, column + 1, line, edge)
  const c = pick(source, column, line + 1, edge)
  const d = pick(source, column + 1, line + 1, edge)
  const upper = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx))
  const lower = f32x4.add(c, f32x4.mul(f32x4.sub(d, c), fx))
  return f32x4.add(upper, f32x4.mul(f32x4.sub(lower, upper), fy))
}
