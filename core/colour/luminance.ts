/** Share of each of Rec.709's primaries in the luminance of its white (ITU-R BT.709-6, 3.2). */
export const LUMINANCE = [0.2126, 0.7152, 0.0722] as const
/** Of linear Rec.709 values. */
export const luminance = (r: number, g: number, b: number): number =>
  r * LUMINANCE[0] + g * LUMINANCE[1] + b * LUMINANCE[2]
/** Of the three values that stand from a place of a plane on. */
export const luminanceAt = (plane: Float32Array, at: number): number =>
  luminance(plane[at]!, plane[at + 1]!, plane[at + 2]!)
/** Scene-linear; stops and amounts are counted from it. Common practice, no source. */
export const MIDDLE_GREY = 0.18
