// Rotations for solving: a start turned by a small rotation vector, so that three numbers say it without a gap
// anywhere.
import type { Vector3 } from '../scene/vector'

/**
 * Rows of a rotation: camera axes (right, up, backward) in the world; applied to a world direction they give camera
 * coordinates.
 */
export type Rotation = readonly [Vector3, Vector3, Vector3]

export const turnInto = (r: Rotation, d: Vector3): Vector3 => [
  r[0][0] * d[0] + r[0][1] * d[1] + r[0][2] * d[2],
  r[1][0] * d[0] + r[1][1] * d[1] + r[1][2] * d[2],
  r[2][0] * d[0] + r[2][1] * d[1] + r[2][2] * d[2],
]
export const turnBack = (r: Rotation, d: Vector3): Vector3 => [
  r[0][0] * d[0] + r[1][0] * d[1] + r[2][0] * d[2],
  r[0][1] * d[0] + r[1][1] * d[1] + r[2][1] * d[2],
  r[0][2] * d[0] + r[1][2] * d[1] + r[2][2] * d[2],
]

/** The rotation followed by a turn of |w| radians about w, in camera coordinates (O. Rodrigues 1840). */
export function turned(r: Rotation, w: Vector3): Rotation {
  const angle = Math.hypot(w[0], w[1], w[2])
  if (angle < 1e-15) return r
  const [x, y, z] = [w[0] / angle, w[1] / angle, w[2] / angle]
  const c = Math.cos(angle)
  const s = Math.sin(angle)
  const k = 1 - c
  const t: Rotation = [
    [c + x * x * k, x * y * k - z * s, x * z * k + y * s],
    [y * x * k + z * s, c + y * y * k, y * z * k - x * s],
    [z * x * k - y * s, z * y * k + x * s, c + z * z * k],
  ]
  const row = (i: 0 | 1 | 2): Vector3 =>
    [0, 1, 2].map(j => t[i][0] * r[0][j]! + t[i][1] * r[1][j]! + t[i][2] * r[2][j]!) as Vector3
  return [row(0), row(1), row(2)]
}

/** Turns spread evenly over all there are (M. Alexa, "Super-Fibonacci Spirals", 2022): starts for a search. */
export function evenRotations(count: number): Rotation[] {
  const phi = Math.SQRT2
  const psi = 1.533751168755204288118041
  return Array.from({ length: count }, (_, i) => {
    const s = i + 0.5
    const r = Math.sqrt(s / count)
    const R = Math.sqrt(1 - s / count)
    const alpha = (2 * Math.PI * s) / phi
    const beta = (2 * Math.PI * s) / psi
    const [x, y, z, w] = [r * Math.sin(alpha), r * Math.cos(alpha), R * Math.sin(beta), R * Math.cos(beta)]
    return [
      [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
      [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
      [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ]
  })
}

/** The camera's matrix (its axes as columns, its place last), as scenes have it. */
export const matrixOf = (r: Rotation, place: Vector3): number[] => [...r[0], 0, ...r[1], 0, ...r[2], 0, ...place, 1]
export const rotationOf = (m: readonly number[]): Rotation => [
  [m[0]!, m[1]!, m[2]!],
  [m[4]!, m[5]!, m[6]!],
  [m[8]!, m[9]!, m[10]!],
]
