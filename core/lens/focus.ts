// Circles of confusion, and the steps of their sizes in which a picture is taken out of focus.
import { apertureKernel, type Aperture } from './aperture'

/** What focus needs to know of a camera, millimetres. */
export interface FocusCamera {
  focalLength: number
  sensorWidth: number
}

/**
 * Radius of the circle, in pixels of a picture so wide, that a point at infinity makes of itself; one at z metres makes
 * of itself that times 1 - distance / z, less than nothing before the plane of focus. Thin lens, its opening
 * focal length / fNumber, the picture taken at the focal length behind it: r = f² / (2 N) · (1/s - 1/z) on the sensor.
 * distance: of the plane of focus, metres. factor: by how much more than that.
 */
export function circleAtInfinity(
  { focalLength, sensorWidth }: FocusCamera,
  fNumber: number,
  distance: number,
  width: number,
  factor = 1,
): number {
  const onSensor = (focalLength * focalLength) / (2 * fNumber) / (distance * 1000)
  return (factor * onSensor * width) / sensorWidth
}

/** Metres at which the circle is so many pixels in radius (less than nothing: before the focus); Infinity beyond reach. */
export function distanceOfCircle(radius: number, atInfinity: number, distance: number): number {
  const left = 1 - radius / atInfinity
  return left > 0 ? distance / left : Infinity
}

/** A kernel is that many cells in radius at most: a larger circle is made on a picture halved. */
const MOST_CELLS = 8
/** From one circle to the next: what is between is mixed of both. */
const FIRST_STEPS = [0, 0.6, 1, 1.5, 2] as const
const GROWTH = 1.15

/** Radii of the circles that are made, from none to the largest. */
export function circleSteps(largest: number): number[] {
  const steps: number[] = FIRST_STEPS.filter(step => step < largest)
  while (steps.at(-1)! < largest) steps.push(steps.length < 2 ? largest : Math.min(largest, steps.at(-1)! * GROWTH))
  return steps
}

/** Times that a picture is halved for a circle. */
export const halvingsFor = (radius: number): number => Math.max(0, Math.ceil(Math.log2(radius / MOST_CELLS)))

/**
 * What making it spreads light besides, as a variance in pixels across: cells as wide as pixels, and, of a picture
 * halved, that and the way back, straight between its pixels (4^n / 6 and 4^n / 12, and 4^n - 1 / 12 of the halving).
 */
const besides = (halvings: number): number => (halvings ? 4 ** halvings / 3 - 1 / 12 : 1 / 12)

/** Words that each step has at the head of the table: radius, halvings, half its kernel, where that stands. */
export const STEP_WORDS = 4
/**
 * What the kernels read: for each step its radius, halvings, half the side of its kernel and where its weights begin
 * (in floats, from the table's start); then the weights.
 */
export function circleTable({ catsEye: _catsEye, ...shape }: Aperture, steps: readonly number[]): Float32Array {
  // A picture is planned anew with every value that is dragged, and asks for the same table again
  const key = JSON.stringify([shape, steps])
  let table = tables.get(key)
  if (!table) {
    if (tables.size >= MOST_TABLES) tables.clear()
    tables.set(key, (table = madeTable({ ...shape, catsEye: 0 }, steps)))
  }
  return table
}
const tables = new Map<string, Float32Array>()
const MOST_TABLES = 16

function madeTable(aperture: Aperture, steps: readonly number[]): Float32Array {
  const own = (radius: number, halvings: number): number => Math.max(0, radius * radius - 4 * besides(halvings))
  const made = steps.map(radius => {
    const halvings = halvingsFor(radius)
    return { radius, halvings, ...apertureKernel(aperture, Math.sqrt(own(radius, halvings)) / 2 ** halvings) }
  })
  const head = steps.length * STEP_WORDS
  const table = new Float32Array(head + made.reduce((sum, { weights }) => sum + weights.length, 0))
  let at = head
  made.forEach(({ radius, halvings, half, weights }, i) => {
    table.set([radius, halvings, half, at], i * STEP_WORDS)
    table.set(weights, at)
    at += weights.length
  })
  return table
}
