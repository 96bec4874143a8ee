// Small vectors and 4x4 matrices. Matrices are column-major, as in glTF.
export type Vector3 = [number, number, number]
export type Quaternion = [number, number, number, number]
export type Matrix4 = number[]

export const identity = (): Matrix4 => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]
export const add = (a: Vector3, b: Vector3): Vector3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]]
export const subtract = (a: Vector3, b: Vector3): Vector3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
export const scaled = (a: Vector3, s: number): Vector3 => [a[0] * s, a[1] * s, a[2] * s]
export const dot = (a: Vector3, b: Vector3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
export const cross = (a: Vector3, b: Vector3): Vector3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]
export const length = (a: Vector3): number => Math.hypot(a[0], a[1], a[2])
/** Unit vector; a zero vector stays zero. */
export const normalized = (a: Vector3): Vector3 => {
  const l = length(a)
  return l > 0 ? scaled(a, 1 / l) : [0, 0, 0]
}

export function multiply(a: Matrix4, b: Matrix4): Matrix4 {
  const out = new Array<number>(16)
  for (let column = 0; column < 4; column++) {
    for (let row = 0; row < 4; row++) {
      let sum = 0
      for (let k = 0; k < 4; k++) sum += a[k * 4 + row]! * b[column * 4 + k]!
      out[column * 4 + row] = sum
    }
  }
  return out
}

/** Translation, rotation (quaternion x y z w) and scale in one matrix, as glTF applies them. */
export function compose(translation: Vector3, rotation: Quaternion, scale: Vector3): Matrix4 {
  const [x, y, z, w] = rotation
  return [
    (1 - 2 * (y * y + z * z)) * scale[0],
    2 * (x * y + z * w) * scale[0],
    2 * (x * z - y * w) * scale[0],
    0,
    2 * (x * y - z * w) * scale[1],
    (1 - 2 * (x * x + z * z)) * scale[1],
    2 * (y * z + x * w) * scale[1],
    0,
    2 * (x * z + y * w) * scale[2],
    2 * (y * z - x * w) * scale[2],
    (1 - 2 * (x * x + y * y)) * scale[2],
    0,
    translation[0],
    translation[1],
    translation[2],
    1,
  ]
}

export const transformPoint = (m: Matrix4, p: Vector3): Vector3 => [
  m[0]! * p[0] + m[4]! * p[1] + m[8]! * p[2] + m[12]!,
  m[1]! * p[0] + m[5]! * p[1] + m[9]! * p[2] + m[13]!,
  m[2]! * p[0] + m[6]! * p[1] + m[10]! * p[2] + m[14]!,
]
export const transformDirection = (m: Matrix4, d: Vector3): Vector3 => [
  m[0]! * d[0] + m[4]! * d[1] + m[8]! * d[2],
  m[1]! * d[0] + m[5]! * d[1] + m[9]! * d[2],
  m[2]! * d[0] + m[6]! * d[1] + m[10]! * d[2],
]

/** Cofactors of the upper 3x3: takes normals along with points under any scale. */
export function normalMatrix(m: Matrix4): Matrix4 {
  const a: Vector3 = [m[0]!, m[1]!, m[2]!]
  const b: Vector3 = [m[4]!, m[5]!, m[6]!]
  const c: Vector3 = [m[8]!, m[9]!, m[10]!]
  const x = cross(b, c)
  const y = cross(c, a)
  const z = cross(a, b)
  const sign = dot(a, x) < 0 ? -1 : 1
  return [
    x[0] * sign,
    x[1] * sign,
    x[2] * sign,
    0,
    y[0] * sign,
    y[1] * sign,
    y[2] * sign,
    0,
    z[0] * sign,
    z[1] * sign,
    z[2] * sign,
    0,
    0,
    0,
    0,
    1,
  ]
}

const RADIANS = Math.PI / 180
/**
 * Turns about the axes in degrees: first about Y (heading), then X (tilt), then Z (bank), as a camera head is turned.
 */
export function rotationFromDegrees(heading: number, tilt: number, bank: number): Matrix4 {
  const cy = Math.cos(heading * RADIANS)
  const sy = Math.sin(heading * RADIANS)
  const cx = Math.cos(tilt * RADIANS)
  const sx = Math.sin(tilt * RADIANS)
  const cz = Math.cos(bank * RADIANS)
  const sz = Math.sin(bank * RADIANS)
  const y: Matrix4 = [cy, 0, -sy, 0, 0, 1, 0, 0, sy, 0, cy, 0, 0, 0, 0, 1]
  const x: Matrix4 = [1, 0, 0, 0, 0, cx, sx, 0, 0, -sx, cx, 0, 0, 0, 0, 1]
  const z: Matrix4 = [cz, sz, 0, 0, -sz, cz, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]
  return multiply(multiply(y, x), z)
}

/** The angles in degrees that rotationFromDegrees turns back into the rotation part of m. */
export function degreesFromRotation(m: Matrix4): { heading: number; tilt: number; bank: number } {
  const sx = Math.hypot(m[8]!, m[10]!)
  return {
    heading: Math.atan2(m[8]!, m[10]!) / RADIANS,
    tilt: Math.atan2(-m[9]!, sx) / RADIANS,
    bank: Math.atan2(m[1]!, m[5]!) / RADIANS,
  }
}

/**
 * A placement as a turn after sizes along the thing's own axes; a mirrored thing is one with a size below 0 along its X.
 * A sheared one keeps its shear in the turn.
 */
export function turnAndSizes(m: Matrix4): { turn: Matrix4; sizes: Vector3 } {
  const axes = [0, 4, 8].map((k): Vector3 => [m[k]!, m[k + 1]!, m[k + 2]!])
  const sizes = axes.map(length) as Vector3
  if (dot(cross(axes[0]!, axes[1]!), axes[2]!) < 0) sizes[0] = -sizes[0]
  const turn = [...axes.flatMap((axis, k) => [...(sizes[k] ? scaled(axis, 1 / sizes[k]!) : axis), 0]), 0, 0, 0, 1]
  return { turn, sizes }
}

/** Inverse of a matrix of turn, scale and place (any affine one). A flat one gives the identity. */
export function inverseOf(m: Matrix4): Matrix4 {
  const a: Vector3 = [m[0]!, m[1]!, m[2]!]
  const b: Vector3 = [m[4]!, m[5]!, m[6]!]
  const c: Vector3 = [m[8]!, m[9]!, m[10]!]
  const x = cross(b, c)
  const y = cross(c, a)
  const z = cross(a, b)
  const determinant = dot(a, x)
  if (Math.abs(determinant) < 1e-30) return identity()
  const row = (v: Vector3): Vector3 => scaled(v, 1 / determinant)
  const [r0, r1, r2] = [row(x), row(y), row(z)]
  const place: Vector3 = [m[12]!, m[13]!, m[14]!]
  return [
    r0[0],
    r1[0],
    r2[0],
    0,
    r0[1],
    r1[1],
    r2[1],
    0,
    r0[2],
    r1[2],
    r2[2],
    0,
    -dot(r0, place),
    -dot(r1, place),
    -dot(r2, place),
    1,
  ]
}
