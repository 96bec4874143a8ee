// Drawing on the plate's ground: heights over a foot, profiles beside it, footprints in metres.
import type { Camera } from '../scene/scene'
import type { Vector3 } from '../scene/vector'
import { rayThrough } from './project'

type Place = { u: number; v: number }
export type GroundPlace = readonly [number, number]

/**
 * On the upright plane through a foot that faces the camera: metres to the right of the foot and above the ground.
 * undefined where the ray runs away from it.
 */
export function besideFoot(
  camera: Camera,
  aspect: number,
  foot: Vector3,
  { u, v }: Place,
): [number, number] | undefined {
  const d = rayThrough(camera, aspect, u, v)
  const m = camera.matrix
  const eye: Vector3 = [m[12]!, m[13]!, m[14]!]
  const nx = eye[0] - foot[0]
  const nz = eye[2] - foot[2]
  const far = Math.hypot(nx, nz)
  const towards = d[0] * nx + d[2] * nz
  if (far < 1e-6 || towards > -1e-9) return undefined
  const t = -(far * far) / towards
  const x = eye[0] + d[0] * t - foot[0]
  const z = eye[2] + d[2] * t - foot[2]
  // To the right as the camera sees it
  return [(x * nz - z * nx) / far, eye[1] + d[1] * t - foot[1]]
}

/** Height in metres of a place of the picture over a foot on the ground; at least a centimetre. */
export const heightOver = (camera: Camera, aspect: number, foot: Vector3, place: Place): number =>
  Math.max(0.01, besideFoot(camera, aspect, foot, place)?.[1] ?? 0.01)

/**
 * A rectangle on the ground from the two ends of one edge and a place on the opposite one. heading: degrees that a box
 * along x must be turned by.
 */
export function rectangleOnGround(
  a: GroundPlace,
  b: GroundPlace,
  c: GroundPlace,
): { middle: [number, number]; width: number; depth: number; heading: number; corners: [number, number][] } {
  const ex = b[0] - a[0]
  const ez = b[1] - a[1]
  const width = Math.hypot(ex, ez) || 1e-6
  const ux = ex / width
  const uz = ez / width
  // Square to the edge, towards c
  const across = (c[0] - a[0]) * -uz + (c[1] - a[1]) * ux
  const vx = -uz * across
  const vz = ux * across
  return {
    middle: [(a[0] + b[0] + vx) / 2, (a[1] + b[1] + vz) / 2],
    width,
    depth: Math.abs(across),
    heading: (Math.atan2(-uz, ux) * 180) / Math.PI,
    corners: [
      [a[0], a[1]],
      [b[0], b[1]],
      [b[0] + vx, b[1] + vz],
      [a[0] + vx, a[1] + vz],
    ],
  }
}

/** A footprint about its middle: its corners as an outline's points. */
export function aboutMiddle(corners: readonly GroundPlace[]): { middle: [number, number]; points: [number, number][] } {
  const xs = corners.map(c => c[0])
  const zs = corners.map(c => c[1])
  const middle: [number, number] = [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...zs) + Math.max(...zs)) / 2]
  const round = (value: number): number => Math.round(value * 1e4) / 1e4
  return { middle, points: corners.map(([x, z]) => [round(x - middle[0]), round(z - middle[1])]) }
}

/** To the nearest step, when there is one. */
export const snapped = (value: number, step: number): number => (step > 0 ? Math.round(value / step) * step : value)
