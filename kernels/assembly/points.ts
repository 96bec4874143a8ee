// Going through a picture pixel by pixel, for every treatment whose result at a pixel depends on that pixel alone.
import { ONE } from './constants'

/** The colour of one, the alpha of the other. */
@inline
export function withAlphaOf(colour: v128, other: v128): v128 {
  return v128.shuffle<f32>(colour, other, 0, 1, 2, 7)
}

const WEIGHTS = memory.data<f32>([0.2126, 0.7152, 0.0722, 0], 16)

// Rec.709 luminance weights (ITU-R BT.709-6), which ASC CDL saturation uses too
@inline
export function luminance(value: v128): v128 {
  const parts = f32x4.mul(value, v128.load(WEIGHTS))
  const two = f32x4.add(parts, v128.shuffle<f32>(parts, parts, 1, 1, 1, 1))
  const sum = f32x4.add(two, v128.shuffle<f32>(parts, parts, 2, 2, 2, 2))
  return v128.shuffle<f32>(sum, sum, 0, 0, 0, 0)
}

/** The same of four pixels, summed in the same order. */
@inline
export function luminanceOf(red: v128, green: v128, blue: v128): v128 {
  const two = f32x4.add(f32x4.mul(red, f32x4.splat(0.2126)), f32x4.mul(green, f32x4.splat(0.7152)))
  return f32x4.add(two, f32x4.mul(blue, f32x4.splat(0.0722)))
}

/** One pixel of a treatment, mixed in by so much of it. straight: its values are for colour that is divided by alpha. */
@inline
function mixedIn<T>(treatment: T, from: usize, to: usize, x: i32, y: i32, amount: f32): void {
  const before = v128.load(from)
  if (amount == 0) {
    v128.store(to, before)
    return
  }
  let after: v128
  const alpha = f32x4.extract_lane(before, 3)
  if (treatment.straight && alpha != 1) {
    after =
      alpha > 0
        ? f32x4.mul(treatment.at(f32x4.mul(before, f32x4.splat(ONE / alpha)), x, y), f32x4.splat(alpha))
        : before
  } else after = treatment.at(before, x, y)
  const mixed = amount == 1 ? after : f32x4.add(before, f32x4.mul(f32x4.sub(after, before), f32x4.splat(amount)))
  v128.store(to, withAlphaOf(mixed, before))
}

/** Whether four pixels are covered wholly. */
@inline
function allCovered(from: usize): bool {
  return load<f32>(from, 12) == 1 && load<f32>(from, 28) == 1 && load<f32>(from, 44) == 1 && load<f32>(from, 60) == 1
}

/** A row of a treatment, mixed in by its strength and matte. */
export function pointRow<T>(treatment: T, x0: i32, x1: i32, y: i32): void {
  let from = treatment.source.colour(x0, y)
  let to = treatment.out.colour(x0, y)
  const strength = treatment.strength
  const straight = treatment.straight
  let matte = treatment.matte.there ? treatment.matte.single(x0, y) : 0
  let x = x0
  if (!matte && strength == 1) {
    // Some are faster on four pixels at once
    if (isDefined(treatment.four))
      for (const last = x1 - 3; x < last; x += 4, from += 64, to += 64)
        if (!straight || allCovered(from)) treatment.four(from, to)
        else for (let i: usize = 0; i < 4; i++) mixedIn(treatment, from + (i << 4), to + (i << 4), x + <i32>i, y, 1)
    // Two at a time: neither waits for the other
    if (!straight)
      for (const last = x1 - 1; x < last; x += 2, from += 32, to += 32) {
        const a = v128.load(from)
        const b = v128.load(from, 16)
        const first = treatment.at(a, x, y)
        const second = treatment.at(b, x + 1, y)
        v128.store(to, withAlphaOf(first, a))
        v128.store(to, withAlphaOf(second, b), 16)
      }
  }
  for (; x < x1; x++, from += 16, to += 16) {
    let amount = strength
    if (matte) {
      amount *= load<f32>(matte)
      matte += 4
    }
    mixedIn(treatment, from, to, x, y, amount)
  }
}
