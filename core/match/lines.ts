// The camera from lines along edges that are parallel in the world. Each direction has a vanishing point; two at right
// angles give focal length and attitude (B. Caprile and V. Torre, "Using vanishing points for camera calibration",
// 1990). All lines are then fitted together: every line is moved as little as possible (in pixels, at its ends) to
// point exactly at the vanishing point of its direction.
import { BadInput } from '../formats/errors'
import { cross, dot, normalized, type Vector3 } from '../scene/vector'
import { leastSquares } from './least'
import { turned, turnInto, type Rotation } from './rotation'

export type Axis = 'x' | 'y' | 'z'
/** A line of the picture in pixels of the frame, along one axis of the world (y is up). */
export interface DrawnLine {
  axis: Axis
  from: [number, number]
  to: [number, number]
}
export interface LineSolveOptions {
  width: number
  height: number
  /** Known focal length in pixels: one direction is enough then. */
  focal?: number
  /** Solves the optical centre too (three directions); else it stands where `axis` says. */
  centre?: boolean
  /** Where the optical axis meets the picture, pixels; the middle of the frame by default. */
  axis?: [number, number]
  /** Attitude to stay near to, where the lines leave a choice: which way along an axis. */
  near: Rotation
}
export interface LineError {
  pixels: number
  degrees: number
}
export interface LineSolution {
  focal: number
  centre: [number, number]
  rotation: Rotation
  /** Vanishing points in pixels; undefined for a direction parallel to the picture. */
  vanishing: Partial<Record<Axis, [number, number]>>
  errors: LineError[]
  /** Root of the mean square distance, pixels. */
  rms: number
}

const AXES: Record<Axis, Vector3> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] }

/**
 * The point nearest to all lines as a direction (x, y, w) from the centre, by the least eigenvector; lines weigh by
 * their length.
 */
function meeting(lines: readonly DrawnLine[], centre: [number, number], scale: number): Vector3 {
  const m = [0, 0, 0, 0, 0, 0]
  for (const { from, to } of lines) {
    const a: Vector3 = [(from[0] - centre[0]) / scale, (from[1] - centre[1]) / scale, 1]
    const b: Vector3 = [(to[0] - centre[0]) / scale, (to[1] - centre[1]) / scale, 1]
    const long = Math.hypot(b[0] - a[0], b[1] - a[1])
    const n = normalized(cross(a, b))
    ;[n[0] * n[0], n[0] * n[1], n[0] * n[2], n[1] * n[1], n[1] * n[2], n[2] * n[2]].forEach((value, i) => {
      m[i]! += value * long * long
    })
  }
  // Least eigenvector by inverse iteration, from several starts for safety
  const [a, b, c, d, e, f] = m as [number, number, number, number, number, number]
  const eps = 1e-12 * (a + d + f)
  const A = a + eps
  const D = d + eps
  const F = f + eps
  const det = A * (D * F - e * e) - b * (b * F - e * c) + c * (b * e - D * c)
  const inverse = [
    [D * F - e * e, c * e - b * F, b * e - c * D],
    [c * e - b * F, A * F - c * c, b * c - A * e],
    [b * e - c * D, b * c - A * e, A * D - b * b],
  ]
  let v: Vector3 = [0.57, 0.61, 0.55]
  for (let i = 0; i < 60; i++)
    v = normalized(
      [0, 1, 2].map(
        k =>
          (inverse[k]![0]! * v[0] + inverse[k]![1]! * v[1] + inverse[k]![2]! * v[2]) / Math.max(1e-300, Math.abs(det)),
      ) as Vector3,
    )
  return v
}

/**
 * Where a world direction vanishes: image coordinates (down positive) as (x, y, w) for that focal length and centre.
 */
function vanishes(rotation: Rotation, axis: Axis, focal: number, centre: [number, number]): Vector3 {
  const d = turnInto(rotation, AXES[axis])
  return [focal * d[0] - centre[0] * d[2], -focal * d[1] - centre[1] * d[2], -d[2]]
}

/** How far the ends of a line lie from the line through its middle towards a point. */
function missOf(line: DrawnLine, point: Vector3): LineError {
  const mx = (line.from[0] + line.to[0]) / 2
  const my = (line.from[1] + line.to[1]) / 2
  const tx = point[0] - mx * point[2]
  const ty = point[1] - my * point[2]
  const far = Math.hypot(tx, ty)
  const dx = line.to[0] - line.from[0]
  const dy = line.to[1] - line.from[1]
  const long = Math.hypot(dx, dy)
  const sine = far > 0 ? (dx * ty - dy * tx) / (far * long) : 0
  return { pixels: (sine * long) / 2, degrees: (Math.asin(Math.max(-1, Math.min(1, sine))) * 180) / Math.PI }
}

/** Throws BadInput with what is missing or cannot be. */
export function solveLines(lines: readonly DrawnLine[], options: LineSolveOptions): LineSolution {
  const { width, height, near } = options
  const middle: [number, number] = options.axis ?? [width / 2, height / 2]
  const scale = Math.max(width, height) / 2
  const groups = (['x', 'y', 'z'] as const)
    .map(axis => ({ axis, lines: lines.filter(line => line.axis === axis) }))
    .filter(group => group.lines.length)
  for (const { from, to } of lines)
    if (Math.hypot(to[0] - from[0], to[1] - from[1]) < 2)
      throw new BadInput('A line is shorter than two pixels: draw it along the edge.')
  const enough = groups.filter(group => group.lines.length >= 2)
  if (!enough.length)
    throw new BadInput('Two lines at least are needed along a direction: draw another beside the first.')
  if (options.focal === undefined && enough.length < 2)
    throw new BadInput(
      'One direction alone leaves the focal length open: draw two lines along a second direction, or say the focal length.',
    )
  if (options.centre && enough.length < 3)
    throw new BadInput('The optical centre needs lines along all three directions.')
  const points = new Map(enough.map(group => [group.axis, meeting(group.lines, middle, scale)] as const))
  const focal = options.focal ?? firstFocal([...points.values()]) * scale
  const rotation = firstRotation(points, focal / scale, near)

  // Everything together: attitude, focal length, centre
  const unknownFocal = options.focal === undefined
  const flat = enough.length === 1
  const at = (values: readonly number[]): { rotation: Rotation; focal: number; centre: [number, number] } => ({
    // With one direction the turn about it is not seen: it stays as it began
    rotation: turned(
      rotation,
      flat
        ? perpendicular(turnInto(rotation, AXES[enough[0]!.axis]), values[0]!, values[1]!)
        : [values[0]!, values[1]!, values[2]!],
    ),
    focal: unknownFocal ? focal * Math.exp(values[3]!) : focal,
    centre: options.centre ? [middle[0] + values[4]! * scale, middle[1] + values[5]! * scale] : middle,
  })
  const used = [true, true, !flat, unknownFocal, !!options.centre, !!options.centre]
  const places = used.flatMap((on, i) => (on ? [i] : []))
  const whole = (values: readonly number[]): number[] => {
    const full = [0, 0, 0, 0, 0, 0]
    places.forEach((place, i) => {
      full[place] = values[i]!
    })
    return full
  }
  const counted = groups.flatMap(group => group.lines)
  const found = leastSquares(
    places.map(() => 0),
    values => {
      const now = at(whole(values))
      return counted.map(
        line => missOf(line, vanishes(now.rotation, line.axis, now.focal, now.centre)).pixels * Math.SQRT2,
      )
    },
    places.map(place => (place < 3 ? 0.1 : 0.3)),
  )
  const solved = at(whole(found.values))
  // The fit of one level direction knows nothing of bank: none is what was agreed
  if (flat && enough[0]!.axis !== 'y') {
    const { axis } = enough[0]!
    const v = turnInto(solved.rotation, AXES[axis])
    solved.rotation = firstRotation(new Map([[axis, [v[0], -v[1], -v[2]] as Vector3]]), 1, near)
  }
  if (!(solved.focal > scale * 0.05) || !(solved.focal < scale * 400))
    throw new BadInput(
      'These lines give no focal length that a lens could have: some are nearly parallel in the picture. Use edges that run together more, or say the focal length.',
    )
  const errors = lines
    .map(line => missOf(line, vanishes(solved.rotation, line.axis, solved.focal, solved.centre)))
    .map(({ pixels, degrees }) => ({ pixels: Math.abs(pixels), degrees: Math.abs(degrees) }))
  const vanishing: LineSolution['vanishing'] = {}
  for (const { axis } of groups) {
    const v = vanishes(solved.rotation, axis, solved.focal, solved.centre)
    if (Math.abs(v[2]) > 1e-4) vanishing[axis] = [v[0] / v[2], v[1] / v[2]]
  }
  return {
    ...solved,
    vanishing,
    errors,
    rms: Math.sqrt(errors.reduce((sum, error) => sum + error.pixels ** 2, 0) / errors.length),
  }
}

/** Focal length over the scale from vanishing points at right angles: f² = -(a·b), by the pair that says it best. */
function firstFocal(points: readonly Vector3[]): number {
  let best = 0
  let weight = 0
  let refused = 0
  for (let i = 0; i < points.length; i++) {
    for (let j = i + 1; j < points.length; j++) {
      const a = points[i]!
      const b = points[j]!
      const product = a[2] * b[2]
      const square = -(a[0] * b[0] + a[1] * b[1]) / product
      // A point far outside says little of the focal length
      const says = Math.abs(product) / (Math.hypot(a[0], a[1], a[2]) * Math.hypot(b[0], b[1], b[2]))
      if (!(square > 0)) {
        if (says > 1e-3) refused++
        continue
      }
      if (says > weight) {
        weight = says
        best = Math.sqrt(square)
      }
    }
  }
  if (weight > 1e-5) return best
  throw new BadInput(
    refused
      ? 'These directions cannot be at right angles to each other in the world: check which lines belong to which direction.'
      : 'These lines are nearly parallel in the picture, so they leave the focal length open: use edges that run together more, or say it.',
  )
}

/** Attitude from the vanishing points; of the ways along the axes the one nearest to `near`. */
function firstRotation(points: ReadonlyMap<Axis, Vector3>, focal: number, near: Rotation): Rotation {
  const seen = new Map<Axis, Vector3>()
  for (const [axis, v] of points) {
    const d = normalized([v[0] / focal, -v[1] / focal, -v[2]])
    const before = turnInto(near, AXES[axis])
    seen.set(axis, dot(d, before) < 0 ? [-d[0], -d[1], -d[2]] : d)
  }
  const axes: Axis[] = ['x', 'y', 'z']
  // The direction seen best first; a second is made perpendicular to it; without one the attitude before fills in
  const known = axes.filter(axis => seen.has(axis))
  const first = known.includes('y') ? 'y' : known[0]!
  const a = seen.get(first)!
  const second = known.find(axis => axis !== first) ?? (first === 'y' ? 'z' : 'y')
  const wish = seen.get(second) ?? (second === 'y' ? levelUp(a) : turnInto(near, AXES[second]))
  const along = dot(wish, a)
  const b = normalized([wish[0] - a[0] * along, wish[1] - a[1] * along, wish[2] - a[2] * along])
  const columns: Partial<Record<Axis, Vector3>> = { [first]: a, [second]: b }
  const third = axes.find(axis => !columns[axis])!
  columns[third] =
    third === 'x'
      ? cross(columns.y!, columns.z!)
      : third === 'y'
        ? cross(columns.z!, columns.x!)
        : cross(columns.x!, columns.y!)
  const [x, y, z] = [columns.x!, columns.y!, columns.z!]
  return [
    [x[0], y[0], z[0]],
    [x[1], y[1], z[1]],
    [x[2], y[2], z[2]],
  ]
}

/**
 * Where up is, in camera coordinates, if the camera has no bank: square to a level direction and to the camera's own
 * right.
 */
function levelUp(direction: Vector3): Vector3 {
  const up = normalized(cross(direction, [1, 0, 0]))
  return up[1] < 0 ? [-up[0], -up[1], -up[2]] : Math.hypot(...up) > 0 ? up : [0, 1, 0]
}

/** A small turn by two numbers about the axes perpendicular to a direction of the camera. */
function perpendicular(d: Vector3, p: number, q: number): Vector3 {
  const u = normalized(cross(Math.abs(d[0]) < 0.8 ? [1, 0, 0] : [0, 1, 0], d))
  const v = cross(d, u)
  return [u[0] * p + v[0] * q, u[1] * p + v[1] * q, u[2] * p + v[2] * q]
}
