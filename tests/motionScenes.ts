// Things and cameras that move, at any time: what a shutter sees of them is the truth for motion blur.
import type { Material } from '../core/scene/scene'
import type { Vector3 } from '../core/scene/vector'
import { comb, points, shining, wall, type View } from './focusScenes'
import { lookAt, object, quad, scene } from './scenes'

/** Of frames from the frame. */
export type Moving = (time: number) => View

const SIZE = { width: 192, height: 108 }
const CAMERA = lookAt([0, 0, 0], [0, 0, -1], 40)

/** Two plates before a wall: a near one goes right, a farther one up, and behind the near one. */
export const crossing: Moving = time => {
  const materials: Material[] = []
  const objects = wall(-14, 8, 20, materials, 7).map((part, i) => object(`wall ${i}`, part))
  const plate = (name: string, x: number, y: number, z: number, half: number, colours: readonly Vector3[]): void =>
    colours.forEach((colour, i) => {
      materials.push(shining(`${name} ${i}`, colour))
      const step = (2 * half) / colours.length
      const left = x - half + i * step
      objects.push(
        object(
          `${name} ${i}`,
          quad(
            [left, y - half, z],
            [left + step, y - half, z],
            [left + step, y + half, z],
            [left, y + half, z],
            materials.length - 1,
          ),
        ),
      )
    })
  const light = (value: number): Vector3 => [value, value * 0.8, value * 0.5]
  const dark = (value: number): Vector3 => [value * 0.2, value * 0.4, value]
  plate('near', -0.35 + 0.45 * time, 0.1, -5, 0.55, [0.9, 0.3, 0.7, 0.2].map(light))
  plate('far', 0.6, -0.3 + 0.7 * time, -8, 0.8, [0.5, 0.1, 0.6].map(dark))
  return { ...SIZE, scene: scene(objects, { materials }), camera: CAMERA }
}

/** A bar that turns before a wall: its ends go fast and along circles. */
export const wheel: Moving = time => {
  const materials: Material[] = []
  const objects = wall(-14, 8, 20, materials, 11).map((part, i) => object(`wall ${i}`, part))
  const turn = 0.2 + 0.5 * time
  const [c, s] = [Math.cos(turn), Math.sin(turn)]
  const at = (x: number, y: number): Vector3 => [x * c - y * s, x * s + y * c, -5]
  for (let i = 0; i < 6; i++) {
    materials.push(shining(`part ${i}`, i % 2 ? [0.8, 0.5, 0.2] : [0.2, 0.25, 0.5]))
    const [from, to] = [-1.2 + 0.4 * i, -0.8 + 0.4 * i]
    objects.push(
      object(`part ${i}`, quad(at(from, -0.2), at(to, -0.2), at(to, 0.2), at(from, 0.2), materials.length - 1)),
    )
  }
  return { ...SIZE, scene: scene(objects, { materials }), camera: CAMERA }
}

/** A camera that goes by rods near and far. */
export const goingBy: Moving = time => ({ ...comb(0), camera: lookAt([0.16 * time, 0, 0], [0.16 * time, 0, -6], 40) })

/** A camera that turns toward bright points behind an edge. */
export const turning: Moving = time => ({ ...points(0), camera: lookAt([0, 0.05, 0], [0.35 * time, 0, -6], 40) })

/** One light that goes right, so many pixels of the frame in one of its frames. */
export const passing =
  (pixels: number): Moving =>
  time => {
    const materials = [shining('lamp', [40, 40, 40])]
    // The frame is 36 mm wide through 40 mm: at 6 m so many metres a pixel
    const x = (pixels * time * 6 * 36) / 40 / SIZE.width
    return {
      ...SIZE,
      scene: scene(
        [
          object(
            'lamp',
            quad([x - 0.05, -0.05, -6], [x + 0.05, -0.05, -6], [x + 0.05, 0.05, -6], [x - 0.05, 0.05, -6], 0),
          ),
        ],
        { materials },
      ),
      camera: CAMERA,
    }
  }

/** The middles of so many moments of equal length. */
export const momentsOf = (moving: Moving, open: number, close: number, count: number): View[] =>
  Array.from({ length: count }, (_, i) => moving(open + ((close - open) * (i + 0.5)) / count))
