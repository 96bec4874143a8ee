// Colour of a lamp by its temperature, as linear Rec.709 of luminance 1. Below 4000 K Planckian, above daylight is common practice;
// here the Planckian locus serves throughout, so that a fade never jumps.
// Source: B. Kang et al., "Design of advanced color temperature control system for HDTV applications", J. Korean Phys. Soc. 41 (2002), 865:
// a cubic fit of the Planckian locus for 1667 K to 25000 K.
import { apply3, inverse3, REC709, rgbToXyz } from './matrix'

export function planckianChromaticity(kelvin: number): [number, number] {
  const t = Math.min(25000, Math.max(1667, kelvin)), k = 1000 / t
  const x = t <= 4000 ? -0.2661239 * k ** 3 - 0.2343589 * k ** 2 + 0.8776956 * k + 0.179910 : -3.0258469 * k ** 3 + 2.1070379 * k ** 2 + 0.2226347 * k + 0.240390
  const y = t <= 2222 ? -1.1063814 * x ** 3 - 1.34811020 * x ** 2 + 2.18555832 * x - 0.20219683
    : t <= 4000 ? -0.9549476 * x ** 3 - 1.37418593 * x ** 2 + 2.09137015 * x - 0.16748867
      : 3.0817580 * x ** 3 - 5.87338670 * x ** 2 + 3.75112997 * x - 0.37001483
  return [x, y]
}

const FROM_XYZ = inverse3(rgbToXyz(REC709))

/** Linear Rec.709 of luminance 1 (parts outside the gamut are cut at 0). kelvin: 1667 to 25000. */
export function kelvinToRgb(kelvin: number): [number, number, number] {
  const [x, y] = planckianChromaticity(kelvin)
  const [r, g, b] = apply3(FROM_XYZ, x / y, 1, (1 - x - y) / y).map(value => Math.max(0, value)) as [number, number, number]
  const luminance = 0.2126 * r + 0.7152 * g + 0.0722 * b
  return [r / luminance, g / luminance, b / luminance]
}
