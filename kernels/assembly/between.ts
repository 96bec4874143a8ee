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
