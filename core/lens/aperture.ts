// The opening of a lens as one sees it from the front, which is the shape of a point of light that is out of focus.
// Places in it are counted in radii of a round opening that lets as much light through: across to the right, up.

export interface Aperture {
  /** Sides of the opening; below 3 it is round. */
  blades: number
  /** Degrees by which it is turned, to the left. */
  turn: number
  /** How much taller than wide it is; 1 as wide as tall. */
  squeeze: number
  /** -1..1: how much brighter the rim is than the middle. */
  rim: number
  /** 0..1: how much of it the barrel of the lens hides toward the corners of the picture. */
  catsEye: number
}
export const ROUND: Aperture = { blades: 0, turn: 0, squeeze: 1, rim: 0, catsEye: 0 }

/** Distance from the middle to a corner of a regular polygon whose area is that of a circle of radius 1. */
export const cornerOf = (blades: number): number =>
  blades < 3 ? 1 : Math.sqrt(Math.PI / ((blades / 2) * Math.sin((2 * Math.PI) / blades)))

/** How far it reaches from its middle to any side. */
export const reachOf = ({ blades, squeeze }: Aperture): number =>
  cornerOf(blades) * Math.max(Math.sqrt(squeeze), 1 / Math.sqrt(squeeze))

/**
 * How bright the opening is at a place, 0 outside; of a mean of 1 over all of it. Along rays from the middle the rim is
 * at s = 1, and brightness goes with its square: 1 + rim (2 s² - 1).
 */
export function brightnessAt({ blades, turn, squeeze, rim }: Aperture, x: number, y: number): number {
  const wide = Math.sqrt(squeeze)
  const across = x * wide
  const up = y / wide
  const radius = Math.hypot(across, up)
  let s = radius
  if (blades >= 3) {
    const sector = (2 * Math.PI) / blades
    const angle = Math.atan2(up, across) - (turn * Math.PI) / 180
    const within = angle - Math.floor(angle / sector) * sector - sector / 2
    s = (radius * Math.cos(within)) / (cornerOf(blades) * Math.cos(sector / 2))
  }
  return s > 1 ? 0 : 1 + rim * (2 * s * s - 1)
}

/** A kernel of square cells, rows from the top, that sums up to 1: what of a point's light falls in each. */
export interface ApertureKernel {
  /** Cells from the middle one to each side. */
  half: number
  weights: Float32Array
}
/** Looks into each cell, at most, each way. */
const MOST_LOOKS = 24

/** The opening seen so large: `radius` in cells of a round one. */
export function apertureKernel(aperture: Aperture, radius: number): ApertureKernel {
  const half = Math.max(0, Math.ceil(radius * reachOf(aperture) - 0.5))
  const side = 2 * half + 1
  const weights = new Float32Array(side * side)
  if (half === 0) {
    weights[0] = 1
    return { half, weights }
  }
  const looks = Math.max(6, Math.min(MOST_LOOKS, Math.ceil(48 / radius)))
  let sum = 0
  for (let row = 0; row < side; row++)
    for (let column = 0; column < side; column++) {
      let light = 0
      for (let j = 0; j < looks; j++)
        for (let i = 0; i < looks; i++)
          light += brightnessAt(
            aperture,
            (column - half - 0.5 + (i + 0.5) / looks) / radius,
            (half - row + 0.5 - (j + 0.5) / looks) / radius,
          )
      weights[row * side + column] = light
      sum += light
    }
  for (let i = 0; i < weights.length; i++) weights[i]! /= sum
  return { half, weights }
}
