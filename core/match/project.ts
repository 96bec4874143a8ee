// Between world metres and the picture, through the shot's camera.
import type { Camera } from '../scene/scene'
import { dot, normalized, subtract, type Vector3 } from '../scene/vector'

/** Place in the frame (u right, v down, 0..1) and metres along the view axis; behind the camera metres are negative. */
export function project(camera: Camera, aspect: number, point: Vector3): { u: number; v: number; metres: number } {
  const m = camera.matrix
  const d = subtract(point, [m[12]!, m[13]!, m[14]!])
  const x = dot(d, [m[0]!, m[1]!, m[2]!])
  const y = dot(d, [m[4]!, m[5]!, m[6]!])
  const z = -dot(d, [m[8]!, m[9]!, m[10]!])
  const tangent = camera.sensorWidth / 2 / camera.focalLength
  return {
    u: 0.5 + x / z / tangent / 2 - camera.shiftX / 2,
    v: 0.5 - y / z / (tangent / aspect) / 2 + camera.shiftY / 2,
    metres: z,
  }
}

/** Unit direction of the ray through a place of the frame, in the world. */
export function rayThrough(camera: Camera, aspect: number, u: number, v: number): Vector3 {
  const m = camera.matrix
  const tangent = camera.sensorWidth / 2 / camera.focalLength
  const x = (u * 2 - 1 + camera.shiftX) * tangent
  const y = ((1 - v * 2 + camera.shiftY) * tangent) / aspect
  return normalized([m[0]! * x + m[4]! * y - m[8]!, m[1]! * x + m[5]! * y - m[9]!, m[2]! * x + m[6]! * y - m[10]!])
}

/** The place that is so many metres along the view axis behind a place of the frame. */
export function placeAt(camera: Camera, aspect: number, u: number, v: number, metres: number): Vector3 {
  const d = rayThrough(camera, aspect, u, v)
  const m = camera.matrix
  const along = metres / -dot(d, [m[8]!, m[9]!, m[10]!])
  return [m[12]! + d[0] * along, m[13]! + d[1] * along, m[14]! + d[2] * along]
}

/** Where that ray meets the level at height y; undefined when it never does before 10 km. */
export function onLevel(camera: Camera, aspect: number, u: number, v: number, height: number): Vector3 | undefined {
  const d = rayThrough(camera, aspect, u, v)
  const m = camera.matrix
  const t = (height - m[13]!) / d[1]
  return t > 0 && t < 10000 ? [m[12]! + d[0] * t, height, m[14]! + d[2] * t] : undefined
}

/**
 * The place on a line of the world that the ray through a place of the frame comes nearest to; undefined where they run
 * side by side.
 */
export function onAxis(
  camera: Camera,
  aspect: number,
  u: number,
  v: number,
  from: Vector3,
  along: Vector3,
): Vector3 | undefined {
  const ray = rayThrough(camera, aspect, u, v)
  const m = camera.matrix
  const way = normalized(along)
  const between = subtract(from, [m[12]!, m[13]!, m[14]!])
  const lean = dot(ray, way)
  const apart = 1 - lean * lean
  if (apart < 1e-6) return undefined
  const far = (lean * dot(ray, between) - dot(way, between)) / apart
  return [from[0] + way[0] * far, from[1] + way[1] * far, from[2] + way[2] * far]
}

/** A segment of the world as a line of the picture, cut where it would pass behind the camera. */
export function segment(
  camera: Camera,
  aspect: number,
  a: Vector3,
  b: Vector3,
  near = 0.05,
): [number, number, number, number] | undefined {
  let from = a
  let to = b
  const da = project(camera, aspect, a).metres
  const db = project(camera, aspect, b).metres
  if (da < near && db < near) return undefined
  const between = (t: number): Vector3 => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t]
  if (da < near) from = between((near - da) / (db - da))
  if (db < near) to = between((near - da) / (db - da))
  const p = project(camera, aspect, from)
  const q = project(camera, aspect, to)
  return [p.u, p.v, q.u, q.v]
}

/** Lines of the grid to each side of its middle, and how far its middle is down the picture. */
const GRID = { lines: 30, down: 0.72 }
/** Metres that its steps have at least and at most. */
const STEPS = { least: 1e-3, most: 1e3 }

/**
 * A grid on the ground where the camera looks: its step is the power of ten of a metre, 1 mm to 1 km, that the view is
 * four to forty of across; every tenth line is stronger.
 */
export function groundGrid(
  camera: Camera,
  aspect: number,
): { step: number; lines: { line: [number, number, number, number]; strong: boolean }[] } {
  const m = camera.matrix
  const high = Math.abs(m[13]!) || 1
  const ahead = [GRID.down, 0.85, 0.97, 0.5]
    .map(v => onLevel(camera, aspect, 0.5, v, 0))
    .find(place => place !== undefined)
  // Looking up there is no ground: the grid lies about the foot of the camera
  const middle: Vector3 = ahead ?? [m[12]! - m[8]! * high * 4, 0, m[14]! - m[10]! * high * 4]
  const far = Math.hypot(middle[0] - m[12]!, m[13]!, middle[2] - m[14]!)
  const across = far * (camera.sensorWidth / camera.focalLength)
  const step = Math.min(STEPS.most, Math.max(STEPS.least, 10 ** Math.floor(Math.log10(across / 4 || 1))))
  const cx = Math.round(middle[0] / step)
  const cz = Math.round(middle[2] / step)
  const { lines: count } = GRID
  const lines: { line: [number, number, number, number]; strong: boolean }[] = []
  for (let i = -count; i <= count; i++) {
    for (const along of [true, false]) {
      const at = (along ? cx : cz) + i
      const a: Vector3 = along ? [at * step, 0, (cz - count) * step] : [(cx - count) * step, 0, at * step]
      const b: Vector3 = along ? [at * step, 0, (cz + count) * step] : [(cx + count) * step, 0, at * step]
      const line = segment(camera, aspect, a, b, Math.min(0.05, far / 100))
      if (line) lines.push({ line, strong: at % 10 === 0 })
    }
  }
  return { step, lines }
}
