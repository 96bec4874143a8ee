// An object moved, turned and, if allowed, scaled so that places of it come to lie where they belong in the picture.
import type { Camera } from '../scene/scene'
import { dot, normalized, scaled, transformPoint, type Matrix4, type Vector3 } from '../scene/vector'
import { leastSquares } from './least'
import { project } from './project'
import { turned, type Rotation } from './rotation'

export interface PinPoint {
  /** Metres in the object's own space. */
  local: Vector3
  u: number
  v: number
}
export interface Pinned {
  matrix: Matrix4
  /** Factor on its size before. */
  scale: number
  /** Frame widths that each pin misses. */
  errors: number[]
}

/**
 * With one pin the object slides at its distance; with two it also turns; from three on it takes any attitude. What the
 * pins leave open stays as it was (a small pull holds it). scaling: its size may change too.
 */
export function pinObject(
  camera: Camera,
  aspect: number,
  matrix: Matrix4,
  pins: readonly PinPoint[],
  options: { scaling: boolean; turning: boolean },
): Pinned {
  const place: Vector3 = [matrix[12]!, matrix[13]!, matrix[14]!]
  const m = camera.matrix
  const miss = (at: Matrix4): number[] =>
    pins.flatMap(({ local, u, v }) => {
      const p = project(camera, aspect, transformPoint(at, local))
      // Behind the camera: pushed away steeply, so that the solver comes back
      return p.metres > 0.01 ? [p.u - u, (p.v - v) / aspect] : [10, 10]
    })
  const middle = pins.reduce(
    (sum, pin) => {
      const p = transformPoint(matrix, pin.local)
      return [sum[0] + p[0] / pins.length, sum[1] + p[1] / pins.length, sum[2] + p[2] / pins.length] as Vector3
    },
    [0, 0, 0] as Vector3,
  )
  const metres = Math.max(0.05, project(camera, aspect, middle).metres)
  const reach = Math.max(
    0.05,
    ...pins.map(pin => {
      const p = transformPoint(matrix, pin.local)
      return Math.hypot(p[0] - middle[0], p[1] - middle[1], p[2] - middle[2])
    }),
  )
  // Moves are counted in the camera's axes: across and up are what one pin can say, along is what it cannot
  const axes: Vector3[] = [0, 1, 2].map(k => normalized([m[k * 4]!, m[k * 4 + 1]!, m[k * 4 + 2]!]))
  const at = (values: readonly number[]): Matrix4 => {
    const [x, y, z, rx, ry, rz, grow] = values as [number, number, number, number, number, number, number]
    const size = Math.exp(grow)
    const r: Rotation = turned(
      [
        [1, 0, 0],
        [0, 1, 0],
        [0, 0, 1],
      ],
      [rx, ry, rz],
    )
    const spin = (d: Vector3): Vector3 => [dot(r[0], d), dot(r[1], d), dot(r[2], d)]
    const columns = [0, 1, 2].map(k => scaled(spin([matrix[k * 4]!, matrix[k * 4 + 1]!, matrix[k * 4 + 2]!]), size))
    // Turned and scaled about the middle of the pins
    const from = scaled(spin([place[0] - middle[0], place[1] - middle[1], place[2] - middle[2]]), size)
    const to = [0, 1, 2].map(
      k => middle[k]! + from[k]! + (axes[0]![k]! * x + axes[1]![k]! * y + axes[2]![k]! * z) * metres,
    )
    return [...columns[0]!, 0, ...columns[1]!, 0, ...columns[2]!, 0, ...to, 1]
  }
  const free = [
    true,
    true,
    pins.length > 1,
    options.turning && pins.length > 2,
    options.turning && pins.length > 1,
    options.turning && pins.length > 2,
    options.scaling && pins.length > 1,
  ]
  const used = free.flatMap((on, i) => (on ? [i] : []))
  const whole = (values: readonly number[]): number[] => {
    const full = [0, 0, 0, 0, 0, 0, 0]
    used.forEach((k, i) => {
      full[k] = values[i]!
    })
    return full
  }
  // The pull back to where it was is far below what a pin says
  const pull = 2e-5
  const found = leastSquares(
    used.map(() => 0),
    values => [
      ...miss(at(whole(values))),
      ...values.map((value, i) => value * (used[i]! < 3 ? pull * 3 : ((pull * reach) / metres) * 3)),
    ],
    used.map(() => 0.1),
    120,
  )
  const solved = whole(found.values)
  const result = at(solved)
  const list = miss(result)
  return {
    matrix: result,
    scale: Math.exp(solved[6]!),
    errors: pins.map((_, i) => Math.hypot(list[i * 2]!, list[i * 2 + 1]!)),
  }
}
