// Pictures thrown on things: whether one falls on a place.
import * as L from './layout'

export let printU: f32 = 0
export let printV: f32 = 0

/** Where a print falls at a place with a normal, in printU and printV; false where it does not, or is hidden. */
export function printedAt(print: usize, x: f32, y: f32, z: f32, normalX: f32, normalY: f32, normalZ: f32): bool {
  const along =
    load<f32>(print, L.PRINT_W) * x +
    load<f32>(print, L.PRINT_W + 4) * y +
    load<f32>(print, L.PRINT_W + 8) * z +
    load<f32>(print, L.PRINT_W + 12)
  if (along < load<f32>(print, L.PRINT_NEAR) || along > load<f32>(print, L.PRINT_FAR)) return false
  let u =
    load<f32>(print, L.PRINT_U) * x +
    load<f32>(print, L.PRINT_U + 4) * y +
    load<f32>(print, L.PRINT_U + 8) * z +
    load<f32>(print, L.PRINT_U + 12)
  let v =
    load<f32>(print, L.PRINT_V) * x +
    load<f32>(print, L.PRINT_V + 4) * y +
    load<f32>(print, L.PRINT_V + 8) * z +
    load<f32>(print, L.PRINT_V + 12)
  let fx = load<f32>(print, L.PRINT_FROM)
  let fy = load<f32>(print, L.PRINT_FROM + 4)
  let fz = load<f32>(print, L.PRINT_FROM + 8)
  if (load<i32>(print, L.PRINT_PERSPECTIVE)) {
    u /= along
    v /= along
    fx -= x
    fy -= y
    fz -= z
  }
  if (!(u >= 0 && u <= 1 && v >= 0 && v <= 1) || fx * normalX + fy * normalY + fz * normalZ <= 0) return false
  const column = min(L.PRINT_CELLS - 1, <i32>(u * <f32>L.PRINT_CELLS))
  const row = min(L.PRINT_CELLS - 1, <i32>(v * <f32>L.PRINT_CELLS))
  if (
    along >
    load<f32>(<usize>load<u32>(print, L.PRINT_NEAREST) + ((<usize>(row * L.PRINT_CELLS + column)) << 2)) +
      load<f32>(print, L.PRINT_BIAS)
  )
    return false
  printU = u
  printV = v
  return true
}
