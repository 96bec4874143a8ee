// The plane of chromaticities: its border, and from one form of it to the other.
import type { Chromaticity } from '../colour/matrix'

/**
 * Light of one wavelength as the CIE 1931 standard observer sees it: nanometres, x, y (CIE 15, table of the spectral
 * chromaticity coordinates for 2 degrees; from memory).
 */
export const PURE_LIGHT: readonly (readonly [nanometres: number, x: number, y: number])[] = [
  [380, 0.1741, 0.005],
  [400, 0.1733, 0.0048],
  [410, 0.1726, 0.0048],
  [420, 0.1714, 0.0051],
  [430, 0.1689, 0.0069],
  [440, 0.1644, 0.0109],
  [450, 0.1566, 0.0177],
  [460, 0.144, 0.0297],
  [470, 0.1241, 0.0578],
  [480, 0.0913, 0.1327],
  [485, 0.0687, 0.2007],
  [490, 0.0454, 0.295],
  [495, 0.0235, 0.4127],
  [500, 0.0082, 0.5384],
  [505, 0.0039, 0.6548],
  [510, 0.0139, 0.7502],
  [515, 0.0389, 0.812],
  [520, 0.0743, 0.8338],
  [525, 0.1142, 0.8262],
  [530, 0.1547, 0.8059],
  [540, 0.2296, 0.7543],
  [550, 0.3016, 0.6923],
  [560, 0.3731, 0.6245],
  [570, 0.4441, 0.5547],
  [580, 0.5125, 0.4866],
  [590, 0.5752, 0.4242],
  [600, 0.627, 0.3725],
  [610, 0.6658, 0.334],
  [620, 0.6915, 0.3083],
  [630, 0.7079, 0.292],
  [640, 0.719, 0.2809],
  [660, 0.73, 0.27],
  [700, 0.7347, 0.2653],
]

/** u′ and v′ (CIE 1976) of x and y (CIE 15, 8.1). */
export function uvOf([x, y]: Chromaticity): Chromaticity {
  const all = -2 * x + 12 * y + 3
  return [(4 * x) / all, (9 * y) / all]
}
