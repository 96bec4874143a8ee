// What many kernels do with a pixel of four f32.

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
