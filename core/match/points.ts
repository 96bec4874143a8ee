// The camera from places in the picture that belong to known points of the world. Any number from four; in one plane or
// not. Many attitudes are tried, for each of which the camera's place is a linear problem; the best are refined
// together with what else is asked for.
import { BadInput } from '../formats/errors'
import type { Vector3 } from '../scene/vector'
import { leastSquares } from './least'
import { evenRotations, turnBack, turned, turnInto, type Rotation } from './rotation'

export interface KnownPoint {
  world: Vector3
  /** Pixels of the frame. */
  pixel: [number, number]
}
export interface PointSolveOptions {
  width: number
  height: number
  /** Known focal length in pixels; else it is solved. */
  focal?: number
  /**
   * First radial term of the lens (Brown and Conrady, as a factor of r² over the focal length squared): solved when
   * true, or known.
   */
  radial?: number | true
  /** Where the optical axis meets the picture; the middle of the frame by default. */
  centre?: [number, number]
  /** An attitude that is known about: searched first and alone when it fits. */
  near?: Rotation
}
export interface PointSolution {
  focal: number
  radial: number
  rotation: Rotation
  place: Vector3
  /** Pixels, one a point. */
  errors: number[]
  rms: number
}

const STARTS = 160
const KEPT = 6

/** Where a point appears; undefined behind the camera. */
export function seenAt(
  point: Vector3,
  rotation: Rotation,
  place: Vector3,
  focal: number,
  radial: number,
  centre: readonly [number, number],
): [number, number] | undefined {
  const d = turnInto(rotation, [point[0] - place[0], point[1] - place[1], point[2] - place[2]])
  if (d[2] >= -1e-9) return undefined
  const x = d[0] / -d[2]
  const y = -d[1] / -d[2]
  const bend = 1 + radial * (x * x + y * y)
  return [centre[0] + focal * x * bend, centre[1] + focal * y * bend]
}

/** Throws BadInput with what is missing or cannot be. */
export function solvePoints(points: readonly KnownPoint[], options: PointSolveOptions): PointSolution {
  const { width, height, focal: known, radial: lens } = options
  const centre = options.centre ?? ([width / 2, height / 2] as [number, number])
  const scale = Math.max(width, height)
  if (points.length < 4)
    throw new BadInput(
      `Four known points at least are needed; there ${points.length === 1 ? 'is' : 'are'} ${points.length}.`,
    )
  if (lens === true && points.length < 5) throw new BadInput('The lens needs a fifth point.')
  const middle = [0, 1, 2].map(k => points.reduce((sum, point) => sum + point.world[k]!, 0) / points.length) as Vector3
  const size = Math.sqrt(
    points.reduce(
      (sum, { world }) => sum + (world[0] - middle[0]) ** 2 + (world[1] - middle[1]) ** 2 + (world[2] - middle[2]) ** 2,
      0,
    ) / points.length,
  )
  if (!(size > 0)) throw new BadInput('The known points are all in one place of the world.')
  if (
    isLine(
      points.map(point => point.world),
      size,
    )
  )
    throw new BadInput(
      'The known points lie on one line of the world: a camera could turn about it. Add one beside it.',
    )
  if (
    Math.max(
      ...points.map(point => Math.hypot(point.pixel[0] - points[0]!.pixel[0], point.pixel[1] - points[0]!.pixel[1])),
    ) < 4
  )
    throw new BadInput('The points are all in one place of the picture.')
  // In units of the points' own size about their middle, so that steps mean the same at every scale
  const near = points.map(({ world }) => [0, 1, 2].map(k => (world[k]! - middle[k]!) / size) as Vector3)
  const focals = known ? [known / scale] : [0.4, 0.6, 0.85, 1.2, 1.7, 2.4, 3.5, 5.5, 9]
  const bend = typeof lens === 'number' ? lens : 0

  // Rough: attitude by attitude, the place solved linearly
  const rough: { rotation: Rotation; place: Vector3; focal: number; error: number }[] = []
  for (const rotation of [...(options.near ? [options.near] : []), ...evenRotations(STARTS)]) {
    for (const focal of focals) {
      const place = placeFor(near, points, rotation, focal * scale, centre)
      if (!place) continue
      rough.push({ rotation, place, focal, error: roughError(near, points, rotation, place, focal * scale, centre) })
    }
  }
  rough.sort((a, b) => a.error - b.error)
  const unknownFocal = known === undefined
  const unknownBend = lens === true
  const refine = (
    start: (typeof rough)[number],
    most: number,
    withLens: boolean,
    weights: readonly number[],
  ): { rotation: Rotation; place: Vector3; focal: number; bend: number; error: number } => {
    const used = [true, true, true, true, true, true, unknownFocal, withLens]
    const places = used.flatMap((on, i) => (on ? [i] : []))
    const full = (values: readonly number[]): number[] => {
      const out = new Array<number>(8).fill(0)
      places.forEach((place, i) => {
        out[place] = values[i]!
      })
      return out
    }
    const at = (values: readonly number[]): { rotation: Rotation; place: Vector3; focal: number; bend: number } => {
      const v = full(values)
      return {
        rotation: turned(start.rotation, [v[0]!, v[1]!, v[2]!]),
        place: [start.place[0] + v[3]!, start.place[1] + v[4]!, start.place[2] + v[5]!],
        focal: start.focal * Math.exp(v[6]!),
        bend: bend + v[7]!,
      }
    }
    const distance = Math.hypot(...start.place)
    const found = leastSquares(
      places.map(() => 0),
      values => {
        const now = at(values)
        return near.flatMap((p, i) =>
          miss(p, points[i]!.pixel, now.rotation, now.place, now.focal * scale, now.bend, centre).map(
            value => value * weights[i]!,
          ),
        )
      },
      places.map(place => (place < 3 ? 0.2 : place < 6 ? distance * 0.2 : 0.2)),
      most,
    )
    return { ...at(found.values), error: found.error }
  }
  const even = points.map(() => 1)
  const candidates = distinct(rough, KEPT * 3)
    .map(start => refine(start, 12, false, even))
    .sort((a, b) => a.error - b.error)
    .slice(0, KEPT)
  if (!candidates.length)
    throw new BadInput('No camera sees these points in these places: check which place belongs to which point.')
  let best = candidates.map(start => refine({ ...start }, 60, false, even)).sort((a, b) => a.error - b.error)[0]!
  if (unknownBend) best = refine(best, 80, true, even)
  // A bad point must stand out rather than bend all others: weights by how far each is off (P. J. Huber 1964)
  for (let round = 0; round < 8 && points.length > 5; round++) {
    const errors = near.map((p, i) =>
      Math.hypot(...miss(p, points[i]!.pixel, best.rotation, best.place, best.focal * scale, best.bend, centre)),
    )
    const bound = Math.max(0.5, 2 * 1.4826 * [...errors].sort((a, b) => a - b)[Math.floor(errors.length / 2)]!)
    if (errors.every(error => error <= bound)) break
    best = refine(
      best,
      20,
      unknownBend,
      errors.map(error => (error <= bound ? 1 : Math.sqrt(bound / error))),
    )
  }
  const place = [0, 1, 2].map(k => best.place[k]! * size + middle[k]!) as Vector3
  const errors = points.map(({ world, pixel }) => {
    const seen = seenAt(world, best.rotation, place, best.focal * scale, best.bend, centre)
    return seen ? Math.hypot(seen[0] - pixel[0], seen[1] - pixel[1]) : Infinity
  })
  const rms = Math.sqrt(errors.reduce((sum, error) => sum + error * error, 0) / errors.length)
  if (!(rms < scale * 0.2))
    throw new BadInput('No camera sees these points in these places: check which place belongs to which point.')
  if (best.focal > 60 || best.focal < 0.05)
    throw new BadInput(
      'These points leave the focal length open (they lie in a plane that faces the camera): say it, or add a point off that plane.',
    )
  return { focal: best.focal * scale, radial: best.bend, rotation: best.rotation, place, errors, rms }
}

const BEHIND = 4000
function miss(
  point: Vector3,
  pixel: readonly [number, number],
  rotation: Rotation,
  place: Vector3,
  focal: number,
  radial: number,
  centre: readonly [number, number],
): [number, number] {
  const seen = seenAt(point, rotation, place, focal, radial, centre)
  return seen ? [seen[0] - pixel[0], seen[1] - pixel[1]] : [BEHIND, BEHIND]
}
/**
 * Squared misses, summed so that one bad point cannot decide; without lens. Run for every attitude tried, so nothing is
 * allocated.
 */
function roughError(
  near: readonly Vector3[],
  points: readonly KnownPoint[],
  [r0, r1, r2]: Rotation,
  [tx, ty, tz]: Vector3,
  focal: number,
  centre: readonly [number, number],
): number {
  let sum = 0
  for (let i = 0; i < near.length; i++) {
    const p = near[i]!
    const { pixel } = points[i]!
    const x = p[0] - tx
    const y = p[1] - ty
    const z = p[2] - tz
    const depth = -(r2[0] * x + r2[1] * y + r2[2] * z)
    let d = 2 * BEHIND * BEHIND
    if (depth > 1e-9) {
      const u = centre[0] + (focal * (r0[0] * x + r0[1] * y + r0[2] * z)) / depth - pixel[0]
      const v = centre[1] - (focal * (r1[0] * x + r1[1] * y + r1[2] * z)) / depth - pixel[1]
      d = u * u + v * v
    }
    sum += d / (1 + d / 40000)
  }
  return sum
}

/** The place from which an attitude sees the points best: each pixel's ray says two linear equations. */
function placeFor(
  near: readonly Vector3[],
  points: readonly KnownPoint[],
  rotation: Rotation,
  focal: number,
  centre: readonly [number, number],
): Vector3 | undefined {
  // Sums of the normal equations; q - t on the ray (x, y, -1): q0 - t0 + x (q2 - t2) = 0 and q1 - t1 + y (q2 - t2) = 0
  let sx = 0
  let sy = 0
  let sxy = 0
  let b0 = 0
  let b1 = 0
  let b2 = 0
  const count = near.length
  const [r0, r1, r2] = rotation
  for (let i = 0; i < count; i++) {
    const p = near[i]!
    const { pixel } = points[i]!
    const x = (pixel[0] - centre[0]) / focal
    const y = -(pixel[1] - centre[1]) / focal
    const q2 = r2[0] * p[0] + r2[1] * p[1] + r2[2] * p[2]
    const u = r0[0] * p[0] + r0[1] * p[1] + r0[2] * p[2] + x * q2
    const v = r1[0] * p[0] + r1[1] * p[1] + r1[2] * p[2] + y * q2
    sx += x
    sy += y
    sxy += x * x + y * y
    b0 += u
    b1 += v
    b2 += x * u + y * v
  }
  const a = [count, 0, sx, 0, count, sy, sx, sy, sxy]
  const b = [b0, b1, b2]
  const t = solved3(a, b)
  if (!t) return undefined
  let inFront = 0
  for (const p of near) if (r2[0] * p[0] + r2[1] * p[1] + r2[2] * p[2] < t[2]) inFront++
  return inFront < count * 0.75 || !t.every(Number.isFinite) ? undefined : turnBack(rotation, t)
}

/** Three equations by Cramer's rule: thousands are solved, and a package's matrices would be most of the time. */
function solved3(m: readonly number[], v: readonly number[]): Vector3 | undefined {
  const [a, b, c, d, e, f, g, h, i] = m as [number, number, number, number, number, number, number, number, number]
  const [x, y, z] = v as [number, number, number]
  const A = e * i - f * h
  const B = f * g - d * i
  const C = d * h - e * g
  const det = a * A + b * B + c * C
  if (Math.abs(det) < 1e-12 * Math.max(1e-300, Math.abs(a * e * i))) return undefined
  return [
    (x * A + b * (f * z - y * i) + c * (y * h - e * z)) / det,
    (x * B + a * (y * i - f * z) + c * (d * z - y * g)) / det,
    (x * C + a * (e * z - y * h) + b * (y * g - d * z)) / det,
  ]
}

/** The best that are not nearly the same attitude and focal length. */
function distinct<T extends { rotation: Rotation; focal: number }>(sorted: readonly T[], most: number): T[] {
  const out: T[] = []
  for (const entry of sorted) {
    if (out.length >= most) break
    if (
      !out.some(
        other =>
          other.focal === entry.focal &&
          other.rotation.every(
            (row, i) =>
              row[0] * entry.rotation[i]![0] + row[1] * entry.rotation[i]![1] + row[2] * entry.rotation[i]![2] > 0.995,
          ),
      )
    )
      out.push(entry)
  }
  return out
}

/** Whether points of the world lie on one line, up to a thousandth of their spread. */
function isLine(points: readonly Vector3[], size: number): boolean {
  const [a] = points
  const far = points.reduce((best, p) => (distance(p, a!) > distance(best, a!) ? p : best))
  const d = [far[0] - a![0], far[1] - a![1], far[2] - a![2]]
  const long = Math.hypot(...d)
  return points.every(p => {
    const e = [p[0] - a![0], p[1] - a![1], p[2] - a![2]]
    const along = (e[0]! * d[0]! + e[1]! * d[1]! + e[2]! * d[2]!) / long
    return Math.sqrt(Math.max(0, e[0]! ** 2 + e[1]! ** 2 + e[2]! ** 2 - along * along)) < size * 1e-3
  })
}
const distance = (a: Vector3, b: Vector3): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])
