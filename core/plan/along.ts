// Sums along straight lines between the pixels. A long one is several in a row, each with its steps as far apart as the
// one before reached: as many taps as the root of its length, and the same result.
import { Along } from '../../kernels/records'
import { kernelNode, type Node } from './node'
import { inRoom } from './room'

/** How far each tap is, across and down, in pixels; weights of each, which sum up to what is to be left of the light. */
export interface Taps {
  places: readonly (readonly [x: number, y: number, weight: number])[]
}
/** More taps than this are done in two goes. */
const MOST_TAPS = 48

/**
 * An even line. length: pixels. angle: radians, counter-clockwise from the right. behind: which share of it lies behind
 * a thing that moves that way.
 */
export function lineTaps(length: number, angle: number, behind: number): Taps[] {
  const [right, down] = [Math.cos(angle), -Math.sin(angle)]
  const count = Math.max(1, Math.ceil(length))
  // A result pixel is made of what lies ahead of it as far as its own light is thrown behind
  const at = (share: number): number => (share - (1 - behind)) * length
  if (count <= MOST_TAPS) return [{ places: even(count, i => at((i + 0.5) / count)) }]
  const few = Math.ceil(Math.sqrt(count))
  const step = length / (few * few)
  const middle = at(0.5)
  return [
    { places: even(few, i => (i - (few - 1) / 2) * step) },
    { places: even(few, i => middle + (i - (few - 1) / 2) * step * few) },
  ]

  function even(taps: number, way: (i: number) => number): Taps['places'] {
    return Array.from({ length: taps }, (_, i) => [way(i) * right, way(i) * down, 1 / taps])
  }
}

/** As the kernel reads them: whole pixels across and down, and the weights of the four pixels about each place. */
function tableOf({ places }: Taps): Float32Array {
  return Float32Array.from(
    places.flatMap(([x, y, weight]) => {
      // What is a whole number but for its last bits is one
      const [px, py] = [x, y].map(value => (Math.abs(value - Math.round(value)) < 1e-6 ? Math.round(value) : value))
      const [left, top] = [Math.floor(px!), Math.floor(py!)]
      const [fx, fy] = [px! - left, py! - top]
      return [
        ...[left, top, weight * (1 - fx) * (1 - fy), weight * fx * (1 - fy)],
        ...[weight * (1 - fx) * fy, weight * fx * fy],
      ]
    }),
  )
}

/** Each of them laid on what came of the one before. bare: nothing is beyond the edge, no light that one does not see. */
export function along(
  colour: Node,
  size: { width: number; height: number },
  all: readonly Taps[],
  { bare = false }: { bare?: boolean } = {},
): Node {
  const reaches = all.map(
    ({ places }) => Math.max(...places.map(([x, y]) => Math.ceil(Math.max(Math.abs(x), Math.abs(y))))) + 1,
  )
  const whole = reaches.reduce((sum, reach) => sum + reach, 0)
  const { source, window } = inRoom(colour, size, whole, { bare })
  let left = whole
  return all.reduce((before, taps, i) => {
    left -= reaches[i]!
    const own = {
      left: window.left - left,
      top: window.top - left,
      right: window.right + left,
      bottom: window.bottom + left,
    }
    return kernelNode(
      Along,
      { source: before, taps: tableOf(taps), count: taps.places.length },
      { window: own, reach: reaches[i]! },
    )
  }, source)
}

/** Taps of a go, and goes: together so many pixels are reached. */
const ARM_TAPS = 5
/** Of what is left at the end of an arm nothing is seen. */
const ARM_END = 6

/**
 * An arm of light that goes one way and fades by 1/e every `length` pixels: several goes, each with its taps as far apart
 * as the one before reached. All its light is one.
 */
export function armTaps(length: number, angle: number): Taps[] {
  const [right, down] = [Math.cos(angle), -Math.sin(angle)]
  const all: Taps[] = []
  for (let step = 1; step < length * ARM_END; step *= ARM_TAPS) {
    const weights = Array.from({ length: ARM_TAPS }, (_, i) => Math.exp((-i * step) / length))
    const sum = weights.reduce((total, weight) => total + weight, 0)
    // Light goes out along the arm: a pixel shows what stands before it
    all.push({ places: weights.map((weight, i) => [-i * step * right, -i * step * down, weight / sum]) })
  }
  return all
}
