// The light that comes from all round, as a smooth function of the direction: its spherical harmonics up to the third band.
// What air scatters of it is the same with each band made less (Funk and Hecke's theorem): the Henyey-Greenstein phase
// function of asymmetry g has the Legendre coefficients g^l (L. Henyey and J. Greenstein 1941).
import type { Vector3 } from './vector'

/** What comes from all round: harmonics of its light, by how much it is turned (degrees), and how bright it is. */
export interface Surroundings {
  light: readonly Vector3[]
  turn: number
  gain: Vector3
}

/** A sum of products, for numbers and for terms of a formula alike. */
export interface Ring<T> {
  constant(value: number): T
  plus(a: T, b: T): T
  times(a: T, b: T): T
}
type Product = readonly [factor: number, x: number, y: number, z: number]

/** Bands 0 to 3 as sums of factor x^a y^b z^c on the unit sphere (real spherical harmonics by their definition). */
const { PI, sqrt } = Math
const BANDS: readonly (readonly (readonly Product[])[])[] = [
  [[[sqrt(1 / PI) / 2, 0, 0, 0]]],
  [[[sqrt(3 / PI) / 2, 0, 1, 0]], [[sqrt(3 / PI) / 2, 0, 0, 1]], [[sqrt(3 / PI) / 2, 1, 0, 0]]],
  [
    [[sqrt(15 / PI) / 2, 1, 1, 0]],
    [[sqrt(15 / PI) / 2, 0, 1, 1]],
    [
      [(3 * sqrt(5 / PI)) / 4, 0, 0, 2],
      [-sqrt(5 / PI) / 4, 0, 0, 0],
    ],
    [[sqrt(15 / PI) / 2, 1, 0, 1]],
    [
      [sqrt(15 / PI) / 4, 2, 0, 0],
      [-sqrt(15 / PI) / 4, 0, 2, 0],
    ],
  ],
  [
    [
      [(3 * sqrt(35 / (2 * PI))) / 4, 2, 1, 0],
      [-sqrt(35 / (2 * PI)) / 4, 0, 3, 0],
    ],
    [[sqrt(105 / PI) / 2, 1, 1, 1]],
    [
      [(5 * sqrt(21 / (2 * PI))) / 4, 0, 1, 2],
      [-sqrt(21 / (2 * PI)) / 4, 0, 1, 0],
    ],
    [
      [(5 * sqrt(7 / PI)) / 4, 0, 0, 3],
      [(-3 * sqrt(7 / PI)) / 4, 0, 0, 1],
    ],
    [
      [(5 * sqrt(21 / (2 * PI))) / 4, 1, 0, 2],
      [-sqrt(21 / (2 * PI)) / 4, 1, 0, 0],
    ],
    [
      [sqrt(105 / PI) / 4, 2, 0, 1],
      [-sqrt(105 / PI) / 4, 0, 2, 1],
    ],
    [
      [sqrt(35 / (2 * PI)) / 4, 3, 0, 0],
      [(-3 * sqrt(35 / (2 * PI))) / 4, 1, 2, 0],
    ],
  ],
]
/** The band of each of the sixteen. */
export const BAND_OF: readonly number[] = BANDS.flatMap((band, l) => band.map(() => l))

/** All sixteen at a unit direction. */
export function harmonics<T>(ring: Ring<T>, x: T, y: T, z: T): T[] {
  const power = (base: T, times: number): T[] => Array.from({ length: times }, () => base)
  return BANDS.flat().map(products =>
    products
      .map(([factor, a, b, c]) =>
        [...power(x, a), ...power(y, b), ...power(z, c)].reduce(
          (all, one) => ring.times(all, one),
          ring.constant(factor),
        ),
      )
      .reduce((sum, one) => ring.plus(sum, one)),
  )
}
/** The same for numbers. */
export function harmonicsAt(x: number, y: number, z: number): number[] {
  return FLAT.map(products => {
    let sum = 0
    for (const [factor, a, b, c] of products) sum += factor * x ** a * y ** b * z ** c
    return sum
  })
}
const FLAT = BANDS.flat()

/** Rows and columns that are looked at, at most: what is smaller is not in those bands. */
const MOST_ROWS = 128

/**
 * Of a picture of all directions (RGBA, rows from the top, its middle towards -Z): sixteen colours. What is no number
 * counts as black.
 */
export function surroundingsOf(pixels: Float32Array, width: number, height: number): Vector3[] {
  const sums = BAND_OF.map((): Vector3 => [0, 0, 0])
  const [down, along] = [Math.max(1, Math.floor(height / MOST_ROWS)), Math.max(1, Math.floor(width / (2 * MOST_ROWS)))]
  for (let top = 0; top < height; top += down)
    for (let left = 0; left < width; left += along) {
      const bottom = Math.min(height, top + down)
      const right = Math.min(width, left + along)
      const mean: Vector3 = [0, 0, 0]
      for (let y = top; y < bottom; y++)
        for (let x = left; x < right; x++)
          for (let c = 0; c < 3; c++) {
            const value = pixels[(y * width + x) * 4 + c]!
            if (Number.isFinite(value)) mean[c]! += value
          }
      // What the block covers of the sphere, and its middle
      const [from, to] = [(top / height) * PI, (bottom / height) * PI]
      const angle =
        ((Math.cos(from) - Math.cos(to)) * 2 * PI * (right - left)) / width / ((right - left) * (bottom - top))
      const theta = (from + to) / 2
      const phi = ((left + right) / 2 / width - 0.5) * 2 * PI
      const all = harmonicsAt(Math.sin(phi) * Math.sin(theta), Math.cos(theta), -Math.cos(phi) * Math.sin(theta))
      all.forEach((value, i) => {
        for (let c = 0; c < 3; c++) sums[i]![c]! += mean[c]! * value * angle
      })
    }
  return sums
}

/** The light that air of asymmetry g (-1..1) scatters toward who looks along each direction, of such surroundings. */
export const scatteredOf = (surroundings: readonly Vector3[], asymmetry: number): Vector3[] =>
  surroundings.map(([r, g, b], i) => {
    const less = asymmetry ** BAND_OF[i]!
    return [r * less, g * less, b * less]
  })
