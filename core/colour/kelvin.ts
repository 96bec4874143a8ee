// Colour of a lamp by its temperature, as linear Rec.709 of luminance 1. Black bodies by the Planckian locus (B. Kang
// et al., "Design of advanced color temperature control system for HDTV applications", J. Korean Phys. Soc. 41 (2002),
// 865: a cubic fit for 1667 K to 25000 K); daylight by the CIE's phases of it (CIE 15:2004, section 3.1, for 4000 K to
// 25000 K).
import { luminance } from './luminance'
import { apply3, inverse3, REC709, rgbToXyz } from './matrix'

export function planckianChromaticity(kelvin: number): [number, number] {
  const t = Math.min(25000, Math.max(1667, kelvin))
  const k = 1000 / t
  const x =
    t <= 4000
      ? -0.2661239 * k ** 3 - 0.2343589 * k ** 2 + 0.8776956 * k + 0.17991
      : -3.0258469 * k ** 3 + 2.1070379 * k ** 2 + 0.2226347 * k + 0.24039
  const y =
    t <= 2222
      ? -1.1063814 * x ** 3 - 1.3481102 * x ** 2 + 2.18555832 * x - 0.20219683
      : t <= 4000
        ? -0.9549476 * x ** 3 - 1.37418593 * x ** 2 + 2.09137015 * x - 0.16748867
        : 3.081758 * x ** 3 - 5.8733867 * x ** 2 + 3.75112997 * x - 0.37001483
  return [x, y]
}

/** Chromaticity of the CIE's daylight of a correlated colour temperature; 4000 K to 25000 K, held beyond. */
export function daylightChromaticity(kelvin: number): [number, number] {
  const t = Math.min(25000, Math.max(4000, kelvin))
  const k = 1000 / t
  const x =
    t <= 7000
      ? -4.607 * k ** 3 + 2.9678 * k ** 2 + 0.09911 * k + 0.244063
      : -2.0064 * k ** 3 + 1.9018 * k ** 2 + 0.24748 * k + 0.23704
  return [x, -3.0 * x * x + 2.87 * x - 0.275]
}

/**
 * Moved off a locus by a distance in the CIE 1960 diagram (Duv; above it is greener, below pinker), square to its
 * course.
 */
export function offLocus(locus: (kelvin: number) => [number, number], kelvin: number, duv: number): [number, number] {
  if (duv === 0) return locus(kelvin)
  const uv = (at: number): [number, number] => {
    const [x, y] = locus(at)
    const d = -2 * x + 12 * y + 3
    return [(4 * x) / d, (6 * y) / d]
  }
  const [u, v] = uv(kelvin)
  const a = uv(kelvin * 0.995)
  const b = uv(kelvin * 1.005)
  const long = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1
  // Hotter runs to smaller u: its left is above
  const u2 = u + ((b[1] - a[1]) / long) * duv
  const v2 = v - ((b[0] - a[0]) / long) * duv
  const d = 2 * u2 - 8 * v2 + 4
  return [(3 * u2) / d, (2 * v2) / d]
}

/** Lamps below 4000 K, daylight above 5000 K, evenly from one to the other between. */
export function lightChromaticity(kelvin: number): [number, number] {
  const share = Math.min(1, Math.max(0, (kelvin - 4000) / 1000))
  const lamp = planckianChromaticity(kelvin)
  const day = daylightChromaticity(kelvin)
  return [lamp[0] + (day[0] - lamp[0]) * share, lamp[1] + (day[1] - lamp[1]) * share]
}

/**
 * The light that a chromaticity is of: the kelvin of the nearest place on the course of lamps and daylight, 1667 to
 * 25000, and how far off it is (Duv, CIE 1960; above it is greener). By the distance's least, a golden section.
 */
export function lightOf([x, y]: readonly [number, number]): { kelvin: number; duv: number } {
  const uv = ([cx, cy]: readonly [number, number]): readonly [number, number] => {
    const d = -2 * cx + 12 * cy + 3
    return [(4 * cx) / d, (6 * cy) / d]
  }
  const [u, v] = uv([x, y])
  // Even steps along it are even in mireds
  const far = (mired: number): number => {
    const [lu, lv] = uv(lightChromaticity(1e6 / mired))
    return Math.hypot(u - lu, v - lv)
  }
  let best = 40
  for (let mired = 40; mired <= 1e6 / 1667; mired += 2) if (far(mired) < far(best)) best = mired
  let [low, high] = [Math.max(40, best - 2), Math.min(1e6 / 1667, best + 2)]
  const GOLDEN = (Math.sqrt(5) - 1) / 2
  for (let i = 0; i < 40; i++) {
    const a = high - (high - low) * GOLDEN
    const b = low + (high - low) * GOLDEN
    if (far(a) < far(b)) high = b
    else low = a
  }
  const kelvin = 1e6 / ((low + high) / 2)
  const above = far(1e6 / kelvin)
  // On the side where moving off by so much comes nearer
  const off = (duv: number): number => {
    const [ou, ov] = uv(offLocus(lightChromaticity, kelvin, duv))
    return Math.hypot(u - ou, v - ov)
  }
  return { kelvin: Math.round(kelvin), duv: off(above) <= off(-above) ? above : -above }
}

const FROM_XYZ = inverse3(rgbToXyz(REC709))

/**
 * Linear Rec.709 of luminance 1 (parts outside the gamut are cut at 0). kelvin: 1667 to 25000; tint: thousandths of
 * Duv, green above 0.
 */
export function kelvinToRgb(kelvin: number, tint = 0, daylight = false): [number, number, number] {
  const [x, y] = offLocus(daylight ? daylightChromaticity : planckianChromaticity, kelvin, tint / 1000)
  const [r, g, b] = apply3(FROM_XYZ, x / y, 1, (1 - x - y) / y).map(value => Math.max(0, value)) as [
    number,
    number,
    number,
  ]
  const light = luminance(r, g, b)
  return [r / light, g / light, b / light]
}
