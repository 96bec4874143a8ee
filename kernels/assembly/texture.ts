// Pictures on surfaces.
import { LINEAR, PLAIN } from './codes'
import { ONE } from './constants'
import * as L from './layout'
import { secondU, secondV } from './vertex'


@inline
function wrap(index: i32, size: i32, mode: i32): i32 {
  if (mode == 1) return max(0, min(size - 1, index))
  if (mode == 2) {
    const period = size << 1
    let folded = index % period
    if (folded < 0) folded += period
    return folded < size ? folded : period - 1 - folded
  }
  const rest = index % size
  return rest < 0 ? rest + size : rest
}


@inline
function texel(pixels: usize, table: usize, x: i32, y: i32, width: i32): v128 {
  const code = load<u32>(pixels + ((<usize>y * width + x) << 2))
  return f32x4(
    load<f32>(table + ((code & 255) << 2)),
    load<f32>(table + (((code >> 8) & 255) << 2)),
    load<f32>(table + (((code >> 16) & 255) << 2)),
    load<f32>(PLAIN + ((code >> 24) << 2)),
  )
}


@inline
function between(a: v128, b: v128, c: v128, d: v128, fx: v128, fy: v128): v128 {
  const top = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx))
  const bottom = f32x4.add(c, f32x4.mul(f32x4.sub(d, c), fx))
  return f32x4.add(top, f32x4.mul(f32x4.sub(bottom, top), fy))
}

/** A premultiplied colour as that of what covers, with how much it covers. */
@inline
function straight(colour: v128): v128 {
  const alpha = f32x4.extract_lane(colour, 3)
  return alpha > 0 ? f32x4.replace_lane(f32x4.mul(colour, f32x4.splat(ONE / alpha)), 3, alpha) : f32x4.splat(0)
}


@inline
export function textureOf(scene: usize, index: i32): usize {
  return <usize>load<u32>(scene, L.SCENE_TEXTURES) + <usize>index * L.TEXTURE_STRIDE
}

/** Bilinear value of a texture at u, v (glTF: v downwards). */
export function fetchTexture(scene: usize, index: i32, s: f32, t: f32): v128 {
  const texture = textureOf(scene, index)
  const set = load<i32>(texture, L.TEXTURE_SET)
  let u = set & 1 ? secondU : s
  let v = set & 1 ? secondV : t
  if (set & 2) {
    const a = u
    const b = v
    u =
      load<f32>(texture, L.TEXTURE_MOVE) * a +
      load<f32>(texture, L.TEXTURE_MOVE + 4) * b +
      load<f32>(texture, L.TEXTURE_MOVE + 8)
    v =
      load<f32>(texture, L.TEXTURE_MOVE + 12) * a +
      load<f32>(texture, L.TEXTURE_MOVE + 16) * b +
      load<f32>(texture, L.TEXTURE_MOVE + 20)
  }
  const width = load<i32>(texture, L.TEXTURE_WIDTH)
  const height = load<i32>(texture, L.TEXTURE_HEIGHT)
  const pixels = <usize>load<u32>(texture)
  const codes = load<i32>(texture, L.TEXTURE_CODES)
  const wrapS = load<i32>(texture, L.TEXTURE_WRAP_S)
  const wrapT = load<i32>(texture, L.TEXTURE_WRAP_T)
  // Keeps far out coordinates within what i32 holds; sampling them is meaningless but must not trap.
  const x = max<f32>(-1e6, min<f32>(1e6, u * <f32>width - 0.5))
  const y = max<f32>(-1e6, min<f32>(1e6, v * <f32>height - 0.5))
  const left = <i32>floor<f32>(x)
  const upper = <i32>floor<f32>(y)
  const fx = f32x4.splat(x - <f32>left)
  const fy = f32x4.splat(y - <f32>upper)
  const x0 = wrap(left, width, wrapS)
  const x1 = wrap(left + 1, width, wrapS)
  const y0 = wrap(upper, height, wrapT)
  const y1 = wrap(upper + 1, height, wrapT)
  if (codes == 2) {
    const upperRow = pixels + ((<usize>y0 * width) << 4)
    const lowerRow = pixels + ((<usize>y1 * width) << 4)
    return straight(
      between(
        v128.load(upperRow + ((<usize>x0) << 4)),
        v128.load(upperRow + ((<usize>x1) << 4)),
        v128.load(lowerRow + ((<usize>x0) << 4)),
        v128.load(lowerRow + ((<usize>x1) << 4)),
        fx,
        fy,
      ),
    )
  }
  const table = codes ? LINEAR : PLAIN
  return between(
    texel(pixels, table, x0, y0, width),
    texel(pixels, table, x1, y0, width),
    texel(pixels, table, x0, y1, width),
    texel(pixels, table, x1, y1, width),
    fx,
    fy,
  )
}
