// Image kernels, each on a band of BAND_ROWS rows. Pixels are four f32, premultiplied, scene-linear.
import {
  BAND_ROWS,
  COVERAGE_RANKS,
  DESK_ROW,
  KERNEL_BLEND,
  KERNEL_MULTIPLY_RATIO,
  KERNEL_GAIN,
  KERNEL_CDL,
  KERNEL_LEVELS,
  KERNEL_SATURATION,
  KERNEL_VIGNETTE,
  KERNEL_DESK,
  KERNEL_RELIGHT,
  KERNEL_DEPTH_SLICE,
  KERNEL_FRONT_SHARE,
  KERNEL_COVERAGE,
  KERNEL_DISPLAY,
  KERNEL_HALVE,
  KERNEL_PLACE,
  KERNEL_MIX,
  KERNEL_LENS,
  KERNEL_TRIM_RATIO,
  KERNEL_RESOLVE,
  KERNEL_RESOLVE_COVERAGE,
  KERNEL_DENOISE,
  KERNEL_LOOK,
  KERNEL_INK,
  KERNEL_ADD,
} from './layout'
import { inkBand, lookBand } from './look'
import { denoiseBand } from './denoise'
import { ONE, HALF } from './constants'
import { blendRow } from './blend'
import { pow4 } from './power'
import { lensBand } from './lens'
import { resolveBand, resolveCoverageBand } from './resolve'
import { frontShareBand, sliceBand } from './slice'
import { number, pointer, whole } from './words'


@inline
function colour(args: usize, word: usize): v128 {
  return v128.load(args + (word << 2))
}

// Rec.709 luminance weights (ITU-R BT.709-6), which ASC CDL saturation uses too
@inline
function luminance(value: v128): v128 {
  return f32x4.splat(
    f32x4.extract_lane(value, 0) * <f32>0.2126 +
      f32x4.extract_lane(value, 1) * <f32>0.7152 +
      f32x4.extract_lane(value, 2) * <f32>0.0722,
  )
}
const RGB = i32x4(-1, -1, -1, 0)

/** Treated pixel of a kernel (word 8 onwards are its values); x, y for those that depend on place. */
@inline
function treat(kernel: i32, args: usize, value: v128, x: i32, y: i32): v128 {
  switch (kernel) {
    case KERNEL_GAIN:
      return f32x4.mul(value, colour(args, 8))
    case KERNEL_CDL: {
      // ASC CDL 1.2: (in slope + offset) ^ power, then saturation; no clamp above 1 (scene-linear), below 0 the power
      // is 1
      const linear = f32x4.add(f32x4.mul(value, colour(args, 8)), colour(args, 12))
      const clamped = whole(args, 21) ? f32x4.max(f32x4.splat(0), f32x4.min(f32x4.splat(1), linear)) : linear
      const raised = v128.bitselect(pow4(clamped, colour(args, 16)), clamped, f32x4.gt(clamped, f32x4.splat(0)))
      const grey = luminance(raised)
      const result = f32x4.add(grey, f32x4.mul(f32x4.sub(raised, grey), f32x4.splat(number(args, 20))))
      return whole(args, 21) ? f32x4.max(f32x4.splat(0), f32x4.min(f32x4.splat(1), result)) : result
    }
    case KERNEL_LEVELS: {
      const low = number(args, 8)
      const span = number(args, 9)
      const outLow = number(args, 11)
      const outSpan = number(args, 12)
      const t = f32x4.mul(f32x4.sub(value, f32x4.splat(low)), f32x4.splat(ONE / span))
      const bent =
        number(args, 10) == 1
          ? t
          : v128.bitselect(pow4(t, f32x4.splat(number(args, 10))), t, f32x4.gt(t, f32x4.splat(0)))
      return f32x4.add(f32x4.splat(outLow), f32x4.mul(bent, f32x4.splat(outSpan)))
    }
    case KERNEL_SATURATION: {
      const grey = luminance(value)
      return f32x4.add(grey, f32x4.mul(f32x4.sub(value, grey), f32x4.splat(number(args, 8))))
    }
    default: {
      // Vignette: an ellipse, distance in units of its radii, smooth ramp from 1 to (1 - amount)
      const dx = (<f32>x + HALF - number(args, 9)) * number(args, 11)
      const dy = (<f32>y + HALF - number(args, 10)) * number(args, 12)
      const d = sqrt<f32>(dx * dx + dy * dy)
      const t = max<f32>(0, min<f32>(1, (d - number(args, 13)) * number(args, 14)))
      return f32x4.mul(value, f32x4.splat(ONE - number(args, 8) * t * t * (<f32>3 - t - t)))
    }
  }
}

/** Words: 2 in, 3 out, 4 matte or 0, 5 strength, 6 whether the values are for unpremultiplied colour. */
function treatmentBand(kernel: i32, args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const source = pointer(args, 2)
  const out = pointer(args, 3)
  const matte = pointer(args, 4)
  const strength = number(args, 5)
  const unpremultiply = whole(args, 6)
  for (let y = y0; y < y1; y++) {
    for (let x = 0; x < width; x++) {
      const index = <usize>(y * width + x)
      const before = v128.load(source + (index << 4))
      const amount = matte ? strength * load<f32>(matte + (index << 2)) : strength
      if (amount == 0) {
        v128.store(out + (index << 4), before)
        continue
      }
      let after: v128
      const alpha = f32x4.extract_lane(before, 3)
      if (unpremultiply && alpha != 1) {
        after =
          alpha > 0
            ? f32x4.mul(treat(kernel, args, f32x4.mul(before, f32x4.splat(ONE / alpha)), x, y), f32x4.splat(alpha))
            : before
      } else after = treat(kernel, args, before, x, y)
      const mixed = amount == 1 ? after : f32x4.add(before, f32x4.mul(f32x4.sub(after, before), f32x4.splat(amount)))
      v128.store(out + (index << 4), v128.bitselect(mixed, before, RGB))
    }
  }
}

/** Words: 2 in, 3 ratio, 4 out, 5 strength. out = in (1 + strength (ratio - 1)). */
function ratioBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const one = f32x4.splat(1)
  const strength = f32x4.splat(number(args, 5))
  for (let i = y0 * width, end = y1 * width; i < end; i++) {
    const at = (<usize>i) << 4
    const value = v128.load(pointer(args, 2) + at)
    const factor = f32x4.add(one, f32x4.mul(f32x4.sub(v128.load(pointer(args, 3) + at), one), strength))
    v128.store(pointer(args, 4) + at, v128.bitselect(f32x4.mul(value, factor), value, RGB))
  }
}

/**
 * Words: 2 in, 3 light, 4 out, 5 how much of it, 6 what takes of the picture before the light is added (in the first of
 * four floats), or 0. Coverage stays; nothing falls below 0 that was not there.
 */
function addBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const amount = f32x4.splat(number(args, 5))
  const none = f32x4.splat(0)
  const cover = pointer(args, 6)
  for (let i = y0 * width, end = y1 * width; i < end; i++) {
    const at = (<usize>i) << 4
    const before = v128.load(pointer(args, 2) + at)
    const value = cover ? f32x4.mul(before, f32x4.splat(ONE - number(args, 5) * load<f32>(cover + at))) : before
    const sum = f32x4.max(f32x4.min(value, none), f32x4.add(value, f32x4.mul(v128.load(pointer(args, 3) + at), amount)))
    v128.store(pointer(args, 4) + at, v128.bitselect(sum, before, RGB))
  }
}

/**
 * The render put together from its parts, each object with its own gains. Words: 2..6 parts (diffuse direct, diffuse
 * indirect, reflection, emission, environment; alpha stands in the first), 7 coverage, 8 occlusion (f32) or 0, 9 out,
 * 10 gains.
 */
function deskBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const a = pointer(args, 2)
  const b = pointer(args, 3)
  const c = pointer(args, 4)
  const glass = pointer(args, 5)
  const d = pointer(args, 6)
  const e = pointer(args, 7)
  const coverage = pointer(args, 8)
  const occlusion = pointer(args, 9)
  const out = pointer(args, 10)
  const gains = pointer(args, 11)
  for (let i = y0 * width, end = y1 * width; i < end; i++) {
    const at = (<usize>i) << 4
    const first = v128.load(a + at)
    let g0 = f32x4.splat(0)
    let g1 = f32x4.splat(0)
    let saturation: f32 = 0
    let sum: f32 = 0
    const ranks = coverage + <usize>i * (COVERAGE_RANKS * 8)
    for (let rank: usize = 0; rank < <usize>(COVERAGE_RANKS * 8); rank += 8) {
      const weight = load<f32>(ranks + rank, 4)
      if (weight <= 0) break
      const row = gains + <usize>(<i32>load<f32>(ranks + rank)) * DESK_ROW
      g0 = f32x4.add(g0, f32x4.mul(v128.load(row), f32x4.splat(weight)))
      g1 = f32x4.add(g1, f32x4.mul(v128.load(row, 16), f32x4.splat(weight)))
      saturation += load<f32>(row, 32) * weight
      sum += weight
    }
    if (sum > 0) {
      const scale = f32x4.splat(ONE / sum)
      g0 = f32x4.mul(g0, scale)
      g1 = f32x4.mul(g1, scale)
      saturation *= ONE / sum
    } else {
      g0 = v128.load(gains)
      g1 = v128.load(gains, 16)
      saturation = load<f32>(gains, 32)
    }
    let value = f32x4.mul(first, f32x4.splat(f32x4.extract_lane(g0, 0)))
    value = f32x4.add(value, f32x4.mul(v128.load(b + at), f32x4.splat(f32x4.extract_lane(g0, 1))))
    value = f32x4.add(value, f32x4.mul(v128.load(c + at), f32x4.splat(f32x4.extract_lane(g0, 2))))
    let closed: f32 = 1
    if (occlusion) closed = ONE - f32x4.extract_lane(g1, 2) * (ONE - load<f32>(occlusion + ((<usize>i) << 2)))
    // What shines by itself, or comes through, is not darkened by creases
    value = f32x4.mul(value, f32x4.splat(closed))
    value = f32x4.add(value, f32x4.mul(v128.load(glass + at), f32x4.splat(f32x4.extract_lane(g0, 3))))
    value = f32x4.add(value, f32x4.mul(v128.load(d + at), f32x4.splat(f32x4.extract_lane(g1, 0))))
    value = f32x4.mul(value, f32x4.splat(f32x4.extract_lane(g1, 3)))
    const grey = luminance(value)
    value = f32x4.add(grey, f32x4.mul(f32x4.sub(value, grey), f32x4.splat(saturation)))
    // The environment has no object: it takes the gain of row 0
    value = f32x4.add(value, f32x4.mul(v128.load(e + at), f32x4.splat(load<f32>(gains, 20))))
    v128.store(out + at, v128.bitselect(value, first, RGB))
  }
}

/**
 * Words: 2 coverage, 3 out (f32), 4 selection (f32 a object index), 5 invert, 6 whether to divide by the whole
 * coverage.
 */
function coverageBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const selection = pointer(args, 4)
  const invert = whole(args, 5)
  const relative = whole(args, 6)
  for (let i = y0 * width, end = y1 * width; i < end; i++) {
    const ranks = pointer(args, 2) + <usize>i * (COVERAGE_RANKS * 8)
    let picked: f32 = 0
    let sum: f32 = 0
    for (let rank: usize = 0; rank < <usize>(COVERAGE_RANKS * 8); rank += 8) {
      const weight = load<f32>(ranks + rank, 4)
      if (weight <= 0) break
      picked += weight * load<f32>(selection + ((<usize>(<i32>load<f32>(ranks + rank))) << 2))
      sum += weight
    }
    let value = relative ? (sum > 0 ? picked / sum : 0) : picked
    value = min<f32>(1, value)
    store<f32>(pointer(args, 3) + ((<usize>i) << 2), invert ? ONE - value : value)
  }
}

/**
 * To 8-bit codes for the eye. Words: 2 in, 3 out (u32 RGBA), 4 thresholds (f32: least value of each code), 5 first
 * guess (u8 by the upper 16 bits of the float), 6 gain, 7 channel (0 colour, 1..4 one channel, 5 luminance).
 * The code is the greatest whose threshold is not above the value: exactly the rounded curve.
 */
function displayBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const thresholds = pointer(args, 4)
  const guess = pointer(args, 5)
  const channel = whole(args, 7)
  const gain = f32x4.splat(number(args, 6))
  const zero = f32x4.splat(0)
  for (let i = y0 * width, end = y1 * width; i < end; i++) {
    let value = v128.load(pointer(args, 2) + ((<usize>i) << 4))
    if (channel == 4) value = f32x4.splat(f32x4.extract_lane(value, 3))
    else {
      value = f32x4.mul(value, gain)
      if (channel == 1) value = f32x4.splat(f32x4.extract_lane(value, 0))
      else if (channel == 2) value = f32x4.splat(f32x4.extract_lane(value, 1))
      else if (channel == 3) value = f32x4.splat(f32x4.extract_lane(value, 2))
      else if (channel == 5) value = luminance(value)
    }
    value = f32x4.pmax(zero, value) // NaN becomes 0
    const r = code(f32x4.extract_lane(value, 0), thresholds, guess)
    const g = code(f32x4.extract_lane(value, 1), thresholds, guess)
    const b = code(f32x4.extract_lane(value, 2), thresholds, guess)
    store<u32>(pointer(args, 3) + ((<usize>i) << 2), r | (g << 8) | (b << 16) | 0xff000000)
  }
}


@inline
function code(value: f32, thresholds: usize, guess: usize): u32 {
  let found = <u32>load<u8>(guess + <usize>(reinterpret<u32>(value) >> 16))
  while (found < 255 && value >= load<f32>(thresholds + ((<usize>(found + 1)) << 2))) found++
  return found
}

/**
 * Words: 0, 1 size of the result, 2 in, 3 out, 4 width in, 5 height in, 6 pixels are one f32 (1) or four (0). Mean of 2
 * x 2.
 */
function halveBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const inWidth = whole(args, 4)
  const inHeight = whole(args, 5)
  const quarter = f32x4.splat(0.25)
  const source = pointer(args, 2)
  const out = pointer(args, 3)
  const single = whole(args, 6)
  for (let y = y0; y < y1; y++) {
    const upper = <usize>(y * 2 * inWidth)
    const lower = <usize>(min(y * 2 + 1, inHeight - 1) * inWidth)
    for (let x = 0; x < width; x++) {
      const left = <usize>(x * 2)
      const right = <usize>min(x * 2 + 1, inWidth - 1)
      const to = <usize>(y * width + x)
      if (single) {
        store<f32>(
          out + (to << 2),
          (load<f32>(source + ((upper + left) << 2)) +
            load<f32>(source + ((upper + right) << 2)) +
            load<f32>(source + ((lower + left) << 2)) +
            load<f32>(source + ((lower + right) << 2))) *
            <f32>0.25,
        )
        continue
      }
      const sum = f32x4.add(
        f32x4.add(v128.load(source + ((upper + left) << 4)), v128.load(source + ((upper + right) << 4))),
        f32x4.add(v128.load(source + ((lower + left) << 4)), v128.load(source + ((lower + right) << 4))),
      )
      v128.store(out + (to << 4), f32x4.mul(sum, quarter))
    }
  }
}

/**
 * Words: 2 in, 3 out, 4 width in, 5 height in, 6..11 the affine map from result pixels to source pixels (a b c / d e
 * f), 12 repeat the edge.
 */
function placeBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const inWidth = whole(args, 4)
  const inHeight = whole(args, 5)
  const source = pointer(args, 2)
  const none = i32x4.splat(0)
  const edge = whole(args, 12)
  for (let y = y0; y < y1; y++) {
    for (let x = 0; x < width; x++) {
      const px = <f32>x + HALF
      const py = <f32>y + HALF
      const sx = number(args, 6) * px + number(args, 7) * py + number(args, 8) - HALF
      const sy = number(args, 9) * px + number(args, 10) * py + number(args, 11) - HALF
      const to = pointer(args, 3) + ((<usize>(y * width + x)) << 4)
      if (!(sx > -1 && sy > -1 && sx < <f32>inWidth && sy < <f32>inHeight) && !edge) {
        v128.store(to, none)
        continue
      }
      const left = <i32>floor<f32>(sx)
      const upper = <i32>floor<f32>(sy)
      const fx = f32x4.splat(sx - <f32>left)
      const fy = f32x4.splat(sy - <f32>upper)
      const a = pick(source, left, upper, inWidth, inHeight, edge)
      const b = pick(source, left + 1, upper, inWidth, inHeight, edge)
      const c = pick(source, left, upper + 1, inWidth, inHeight, edge)
      const d = pick(source, left + 1, upper + 1, inWidth, inHeight, edge)
      const top = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx))
      const bottom = f32x4.add(c, f32x4.mul(f32x4.sub(d, c), fx))
      v128.store(to, f32x4.add(top, f32x4.mul(f32x4.sub(bottom, top), fy)))
    }
  }
}


@inline
function pick(source: usize, x: i32, y: i32, width: i32, height: i32, edge: i32): v128 {
  if (edge) {
    x = max(0, min(width - 1, x))
    y = max(0, min(height - 1, y))
  } else if (x < 0 || y < 0 || x >= width || y >= height) return i32x4.splat(0)
  return v128.load(source + ((<usize>y * width + x) << 4))
}

/**
 * Words: 2 ratio, 3 catcher numbers (f32), 4 out, 5 table of density and tint (4 f32) by number. Tint fills in what
 * shadow takes.
 */
function trimBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const one = f32x4.splat(1)
  const none = f32x4.splat(0)
  for (let i = y0 * width, end = y1 * width; i < end; i++) {
    const at = (<usize>i) << 4
    const entry = pointer(args, 5) + ((<usize>load<f32>(pointer(args, 3) + ((<usize>i) << 2))) << 4)
    const ratio = v128.load(pointer(args, 2) + at)
    const dense = f32x4.max(none, f32x4.add(one, f32x4.mul(f32x4.sub(ratio, one), f32x4.splat(load<f32>(entry)))))
    const tint = f32x4(load<f32>(entry, 4), load<f32>(entry, 8), load<f32>(entry, 12), 0)
    const tinted = f32x4.add(dense, f32x4.mul(f32x4.max(none, f32x4.sub(one, dense)), tint))
    v128.store(pointer(args, 4) + at, v128.bitselect(tinted, ratio, RGB))
  }
}

/**
 * Words: 2 in, 3 out, 4 groups of light, 5 table of them (pointer, f32 gain). What is in becomes what it is under the
 * light so changed; where the groups are dark it stays.
 */
function relightBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const count = whole(args, 4)
  const table = pointer(args, 5)
  const none = f32x4.splat(0)
  const one = f32x4.splat(1)
  for (let i = y0 * width, end = y1 * width; i < end; i++) {
    const at = (<usize>i) << 4
    const value = v128.load(pointer(args, 2) + at)
    let before = none
    let after = none
    for (let k = 0; k < count; k++) {
      const light = v128.load(<usize>load<u32>(table + ((<usize>k) << 3)) + at)
      before = f32x4.add(before, light)
      after = f32x4.add(after, f32x4.mul(light, f32x4.splat(load<f32>(table + ((<usize>k) << 3), 4))))
    }
    const ratio = v128.bitselect(f32x4.div(after, before), one, f32x4.gt(before, f32x4.splat(1e-12)))
    v128.store(pointer(args, 3) + at, v128.bitselect(f32x4.mul(value, ratio), value, RGB))
  }
}

/** Words: 2, 3 in, 4 out, 5 share of the second. */
function mixBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const share = f32x4.splat(number(args, 5))
  for (let i = y0 * width, end = y1 * width; i < end; i++) {
    const at = (<usize>i) << 4
    const first = v128.load(pointer(args, 2) + at)
    v128.store(
      pointer(args, 4) + at,
      f32x4.add(first, f32x4.mul(f32x4.sub(v128.load(pointer(args, 3) + at), first), share)),
    )
  }
}

export function imageBand(kernel: i32, args: usize, band: i32): void {
  const y0 = band * BAND_ROWS
  const y1 = min(whole(args, 1), y0 + BAND_ROWS)
  const width = whole(args, 0)
  switch (kernel) {
    // Words: 2 backdrop, 3 source, 4 out, 5 mode, 6 opacity, 7 matte or 0
    case KERNEL_BLEND: {
      const from = (<usize>(y0 * width)) << 4
      const matte = pointer(args, 7)
      blendRow(
        pointer(args, 2) + from,
        pointer(args, 3) + from,
        pointer(args, 4) + from,
        (y1 - y0) * width,
        whole(args, 5),
        number(args, 6),
        matte ? matte + ((<usize>(y0 * width)) << 2) : 0,
      )
      break
    }
    case KERNEL_MULTIPLY_RATIO:
      ratioBand(args, y0, y1)
      break
    case KERNEL_GAIN:
    case KERNEL_CDL:
    case KERNEL_LEVELS:
    case KERNEL_SATURATION:
    case KERNEL_VIGNETTE:
      treatmentBand(kernel, args, y0, y1)
      break
    case KERNEL_DESK:
      deskBand(args, y0, y1)
      break
    case KERNEL_RELIGHT:
      relightBand(args, y0, y1)
      break
    case KERNEL_DEPTH_SLICE:
      sliceBand(args, y0, y1)
      break
    case KERNEL_FRONT_SHARE:
      frontShareBand(args, y0, y1)
      break
    case KERNEL_COVERAGE:
      coverageBand(args, y0, y1)
      break
    case KERNEL_DISPLAY:
      displayBand(args, y0, y1)
      break
    case KERNEL_HALVE:
      halveBand(args, y0, y1)
      break
    case KERNEL_PLACE:
      placeBand(args, y0, y1)
      break
    case KERNEL_MIX:
      mixBand(args, y0, y1)
      break
    case KERNEL_LENS:
      lensBand(args, y0, y1)
      break
    case KERNEL_TRIM_RATIO:
      trimBand(args, y0, y1)
      break
    case KERNEL_LOOK:
      lookBand(args, y0, y1)
      break
    case KERNEL_ADD:
      addBand(args, y0, y1)
      break
    case KERNEL_INK:
      inkBand(args, y0, y1)
      break
    case KERNEL_DENOISE:
      denoiseBand(args, y0, y1)
      break
    case KERNEL_RESOLVE:
      resolveBand(args, y0, y1)
      break
    case KERNEL_RESOLVE_COVERAGE:
      resolveCoverageBand(args, y0, y1)
      break
  }
}
