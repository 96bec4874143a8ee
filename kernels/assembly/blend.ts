// Porter and Duff's over with the blending modes of W3C Compositing and Blending Level 1, on premultiplied scene-linear
// pixels. The W3C formulas are defined for 0..1; above 1 the separable ones take the unclamped sum, product or maximum
// where that is continuous, the rest see values clamped to 1.
import { ONE, TWO, HALF } from './constants'


@inline
function clip(value: f32): f32 {
  return max<f32>(0, min<f32>(1, value))
}


@inline
function multiplyOrScreen(b: f32, s: f32): f32 {
  return s <= HALF ? b * TWO * s : b + (TWO * s - 1) - b * (TWO * s - 1)
}


@inline
function softLight(b: f32, s: f32): f32 {
  if (s <= HALF) return b - (ONE - TWO * s) * b * (ONE - b)
  const d: f32 = b <= 0.25 ? ((b * 16 - 12) * b + 4) * b : sqrt<f32>(b)
  return b + (TWO * s - 1) * (d - b)
}

/** One channel of a separable mode: backdrop b, source s, both unpremultiplied. */
@inline
function separable(mode: i32, b: f32, s: f32): f32 {
  switch (mode) {
    case 1:
      return b * s
    case 2:
      return b > 1 || s > 1 ? max(b, s) : b + s - b * s
    case 3:
      return multiplyOrScreen(clip(s), clip(b))
    case 4:
      return min(b, s)
    case 5:
      return max(b, s)
    case 6: {
      const cb = clip(b)
      const cs = clip(s)
      return cb <= 0 ? 0 : cs >= 1 ? 1 : min<f32>(1, cb / (ONE - cs))
    }
    case 7: {
      const cb = clip(b)
      const cs = clip(s)
      return cb >= 1 ? 1 : cs <= 0 ? 0 : ONE - min<f32>(1, (ONE - cb) / cs)
    }
    case 8:
      return multiplyOrScreen(clip(b), clip(s))
    case 9:
      return softLight(clip(b), clip(s))
    case 10:
      return abs(b - s)
    case 11:
      return b > 1 || s > 1 ? abs(b - s) : b + s - TWO * b * s
    case 16:
      return b + s
    case 17:
      return b - s
    case 18:
      return s > 1e-8 ? b / s : b
    default:
      return s
  }
}

let r: f32 = 0
let g: f32 = 0
let bl: f32 = 0


@inline
function lum(x: f32, y: f32, z: f32): f32 {
  return x * <f32>0.3 + y * <f32>0.59 + z * <f32>0.11
}
function clipColour(): void {
  const l = lum(r, g, bl)
  const n = min(r, min(g, bl))
  const x = max(r, max(g, bl))
  if (n < 0) {
    const k = l / (l - n)
    r = l + (r - l) * k
    g = l + (g - l) * k
    bl = l + (bl - l) * k
  }
  if (x > 1) {
    const k = (ONE - l) / (x - l)
    r = l + (r - l) * k
    g = l + (g - l) * k
    bl = l + (bl - l) * k
  }
}
function setLum(x: f32, y: f32, z: f32, target: f32): void {
  const d = target - lum(x, y, z)
  r = x + d
  g = y + d
  bl = z + d
  clipColour()
}
function setSat(x: f32, y: f32, z: f32, s: f32): void {
  const n = min(x, min(y, z))
  const top = max(x, max(y, z))
  const k: f32 = top > n ? s / (top - n) : 0
  r = (x - n) * k
  g = (y - n) * k
  bl = (z - n) * k
}


@inline
function sat(x: f32, y: f32, z: f32): f32 {
  return max(x, max(y, z)) - min(x, min(y, z))
}

/** Non-separable modes 12 hue, 13 saturation, 14 colour, 15 luminosity: result in r, g, bl. */
function nonSeparable(mode: i32, br: f32, bg: f32, bb: f32, sr: f32, sg: f32, sb: f32): void {
  br = clip(br)
  bg = clip(bg)
  bb = clip(bb)
  sr = clip(sr)
  sg = clip(sg)
  sb = clip(sb)
  if (mode == 12) {
    setSat(sr, sg, sb, sat(br, bg, bb))
    setLum(r, g, bl, lum(br, bg, bb))
  } else if (mode == 13) {
    setSat(br, bg, bb, sat(sr, sg, sb))
    setLum(r, g, bl, lum(br, bg, bb))
  } else if (mode == 14) setLum(sr, sg, sb, lum(br, bg, bb))
  else setLum(br, bg, bb, lum(sr, sg, sb))
}

/**
 * Plain over with one opacity, the commonest case: at the pace of memory. Also keeps light without coverage (a glow):
 * source is added whatever its alpha.
 */
function overRow(backdrop: usize, source: usize, out: usize, count: i32, opacity: f32): void {
  const amount = f32x4.splat(opacity)
  const one = f32x4.splat(1)
  const last = source + ((<usize>count) << 4)
  const toBackdrop = backdrop - source
  const toOut = out - source
  if (opacity == 1) {
    for (let at = source; at < last; at += 16) {
      const s = v128.load(at)
      v128.store(
        at + toOut,
        f32x4.add(s, f32x4.mul(v128.load(at + toBackdrop), f32x4.sub(one, v128.shuffle<f32>(s, s, 3, 3, 3, 3)))),
      )
    }
    return
  }
  for (let at = source; at < last; at += 16) {
    const s = f32x4.mul(v128.load(at), amount)
    v128.store(
      at + toOut,
      f32x4.add(s, f32x4.mul(v128.load(at + toBackdrop), f32x4.sub(one, v128.shuffle<f32>(s, s, 3, 3, 3, 3)))),
    )
  }
}

/**
 * Row of `count` pixels: source over backdrop with a mode, opacity and an optional matte (one f32 a pixel, 0 for none).
 */
export function blendRow(
  backdrop: usize,
  source: usize,
  out: usize,
  count: i32,
  mode: i32,
  opacity: f32,
  matte: usize,
): void {
  if (mode == 0 && !matte) {
    overRow(backdrop, source, out, count, opacity)
    return
  }
  const one = f32x4.splat(1)
  for (let i = 0; i < count; i++) {
    const at = (<usize>i) << 4
    const amount = matte ? opacity * load<f32>(matte + ((<usize>i) << 2)) : opacity
    const s = f32x4.mul(v128.load(source + at), f32x4.splat(amount))
    const b = v128.load(backdrop + at)
    const sa = f32x4.extract_lane(s, 3)
    const ba = f32x4.extract_lane(b, 3)
    if (mode == 0 || sa <= 0 || ba <= 0) {
      if (sa <= 0 && mode == 16) {
        v128.store(out + at, f32x4.add(b, s))
        continue
      }
      v128.store(out + at, f32x4.add(s, f32x4.mul(b, f32x4.sub(one, f32x4.splat(sa)))))
      continue
    }
    const su = f32x4.div(s, f32x4.splat(sa))
    const bu = f32x4.div(b, f32x4.splat(ba))
    const br = f32x4.extract_lane(bu, 0)
    const bg = f32x4.extract_lane(bu, 1)
    const bb = f32x4.extract_lane(bu, 2)
    const sr = f32x4.extract_lane(su, 0)
    const sg = f32x4.extract_lane(su, 1)
    const sb = f32x4.extract_lane(su, 2)
    if (mode >= 12 && mode <= 15) nonSeparable(mode, br, bg, bb, sr, sg, sb)
    else {
      r = separable(mode, br, sr)
      g = separable(mode, bg, sg)
      bl = separable(mode, bb, sb)
    }
    // W3C: co = cs as (1 - ab) + cb ab (1 - as) + as ab B(cb, cs)
    const mixed = f32x4.add(
      f32x4.add(f32x4.mul(s, f32x4.splat(ONE - ba)), f32x4.mul(b, f32x4.splat(ONE - sa))),
      f32x4.mul(f32x4(r, g, bl, 0), f32x4.splat(sa * ba)),
    )
    v128.store(out + at, f32x4.replace_lane(mixed, 3, sa + ba - sa * ba))
  }
}
