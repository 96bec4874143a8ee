// How far red and blue lie apart from green toward the corners, as a simple lens spreads them: in squares each is
// fitted by green and its slope outward (R = p G + q + s dG/dr: how far it lies is -s/p, the first terms of a shift),
// and over all squares by the cube of the distance from the middle, as the treatment lays it.
export interface Fringing {
  /** How far red lies outside of blue in the corner, pixels. */
  apart: number
  /** What that may be wrong by (standard error). */
  error: number
}
const SIDE = 32
/**
 * Of a square red and blue must follow green so closely, and green must have so much slope outward beside its light.
 */
const LIKE = 0.7
const LEAST_SLOPE = 0.03
const LEAST_SQUARES = 20

/**
 * pixels: scene-linear premultiplied RGBA, rows of `width`, all of a frame; what a mask does not hold does not count.
 * Undefined where too little has slopes.
 */
export function fringingOf(pixels: Float32Array, width: number, mask?: Uint8Array): Fringing | undefined {
  const height = Math.floor(pixels.length / 4 / width)
  const corner = Math.hypot(width, height) / 2
  const found: { apart: number; weight: number }[] = []
  for (let y = 1; y + SIDE < height; y += SIDE)
    for (let x = 1; x + SIDE < width; x += SIDE) {
      const [dx, dy] = [x + SIDE / 2 - width / 2, y + SIDE / 2 - height / 2]
      const share = (Math.hypot(dx, dy) / corner) ** 3
      // Near the middle it is nothing
      if (share < 0.02) continue
      const radius = Math.hypot(dx, dy)
      const red = shiftIn(pixels, width, x, y, 0, dx / radius, dy / radius, mask)
      const blue = shiftIn(pixels, width, x, y, 2, dx / radius, dy / radius, mask)
      if (!red || !blue) continue
      found.push({ apart: (red.by - blue.by) / share, weight: share * share * Math.min(red.slope, blue.slope) })
    }
  if (found.length < LEAST_SQUARES) return undefined
  found.sort((a, b) => a.apart - b.apart)
  const all = found.reduce((sum, { weight }) => sum + weight, 0)
  const quantile = (share: number): number => {
    let sum = 0
    return found.find(({ weight }) => (sum += weight) >= share * all)!.apart
  }
  const apart = quantile(0.5)
  // Of weighted squares so many count as many alike would
  const like = all ** 2 / found.reduce((sum, { weight }) => sum + weight ** 2, 0)
  // The middle half of a bell is 1.349 of its deviations wide; its median is wrong by 1.2533 of its mean's error
  const error = (1.2533 * (quantile(0.75) - quantile(0.25))) / 1.349 / Math.sqrt(like)
  return { apart, error }
}

/** How far a channel lies outside of green in a square, and how much slope there is to tell by. */
function shiftIn(
  pixels: Float32Array,
  width: number,
  left: number,
  top: number,
  channel: 0 | 2,
  outX: number,
  outY: number,
  mask: Uint8Array | undefined,
): { by: number; slope: number } | undefined {
  let [g, r, d, gg, gr, gd, dd, dr, rr] = [0, 0, 0, 0, 0, 0, 0, 0, 0]
  for (let y = top; y < top + SIDE; y++)
    for (let x = left; x < left + SIDE; x++) {
      const at = (y * width + x) * 4
      if (!(pixels[at + 3]! > 0.99) || (mask && !mask[at / 4])) return undefined
      const green = pixels[at + 1]!
      const other = pixels[at + channel]!
      const slope =
        ((pixels[at + 5]! - pixels[at - 3]!) * outX +
          (pixels[at + width * 4 + 1]! - pixels[at - width * 4 + 1]!) * outY) /
        2
      g += green
      r += other
      d += slope
      gg += green * green
      gr += green * other
      gd += green * slope
      dd += slope * slope
      dr += slope * other
      rr += other * other
    }
  const count = SIDE * SIDE
  const [cgg, cgr, cgd] = [gg - (g * g) / count, gr - (g * r) / count, gd - (g * d) / count]
  const [cdd, cdr, crr] = [dd - (d * d) / count, dr - (d * r) / count, rr - (r * r) / count]
  const determinant = cgg * cdd - cgd * cgd
  if (!(determinant > 0) || !(cgg > 0) || !(crr > 0)) return undefined
  const gain = (cgr * cdd - cdr * cgd) / determinant
  const slope = (cdr * cgg - cgr * cgd) / determinant
  const like = (gain * cgr + slope * cdr) / crr
  const steep = Math.sqrt(cdd / count) / (g / count)
  if (!(gain > 0) || !(like > LIKE) || !(steep > LEAST_SLOPE)) return undefined
  return { by: -slope / gain, slope: steep * steep }
}
