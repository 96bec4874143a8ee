// Sums along straight lines between the pixels. A long one is several in a row, each with its steps as far apart as the
// one before reached: as many taps as the root of its length, and the same result.
import { grown } from '../engine/box'
import { Along } from '../../kernels/records'
import { kernelNode, type Node } from './node'
import { inRoom } from './room'

export interface Tap {
  /** How far it is, across and down, in pixels. */
  x: number
  y: number
  /** All of them sum up to what is to be left of the light. */
  weight: number
  /** How much of each channel; all of it where it says nothing. */
  shade?: readonly [number, number, number]
}
/** More taps than this are done in two goes. */
const MOST_TAPS = 48

/**
 * An even line. length: pixels. angle: radians, counter-clockwise from the right. behind: which share of it lies behind
 * a thing that moves that way.
 */
export function lineTaps(length: number, angle: number, behind: number): Tap[][] {
  const [right, down] = [Math.cos(angle), -Math.sin(angle)]
  const count = Math.max(1, Math.ceil(length))
  // A result pixel is made of what lies ahead of it as far as its own light is thrown behind
  const at = (share: number): number => (share - (1 - behind)) * length
  if (count <= MOST_TAPS) return [even(count, i => at((i + 0.5) / count))]
  const few = Math.ceil(Math.sqrt(count))
  const step = length / (few * few)
  const middle = at(0.5)
  return [even(few, i => (i - (few - 1) / 2) * step), even(few, i => middle + (i - (few - 1) / 2) * step * few)]

  function even(taps: number, way: (i: number) => number): Tap[] {
    return Array.from({ length: taps }, (_, i) => ({ x: way(i) * right, y: way(i) * down, weight: 1 / taps }))
  }
}

/** As the kernel reads them: whole pixels across and down, the weights of the four pixels about each place, shades. */
function tableOf(taps: readonly Tap[]): Float32Array {
  return Float32Array.from(
    taps.flatMap(({ x, y, weight, shade = [1, 1, 1] }) => {
      // What is a whole number but for its last bits is one
      const [px, py] = [x, y].map(value => (Math.abs(value - Math.round(value)) < 1e-6 ? Math.round(value) : value))
      const [left, top] = [Math.floor(px!), Math.floor(py!)]
      const [fx, fy] = [px! - left, py! - top]
      return [
        ...[left, top, weight * (1 - fx) * (1 - fy), weight * fx * (1 - fy)],
        ...[weight * (1 - fx) * fy, weight * fx * fy],
        ...shade,
      ]
    }),
  )
}

/** Each of them laid on what came of the one before. bare: nothing is beyond the edge, no light that one does not see. */
export function along(
  colour: Node,
  size: { width: number; height: number },
  all: readonly (readonly Tap[])[],
  { bare = false }: { bare?: boolean } = {},
): Node {
  const reaches = all.map(
    taps => Math.max(...taps.map(({ x, y }) => Math.ceil(Math.max(Math.abs(x), Math.abs(y))))) + 1,
  )
  const whole = reaches.reduce((sum, reach) => sum + reach, 0)
  const { source, window } = inRoom(colour, size, whole, { bare })
  let left = whole
  return all.reduce((before, taps, i) => {
    left -= reaches[i]!
    return kernelNode(
      Along,
      { source: before, taps: tableOf(taps), count: taps.length },
      { window: grown(window, left), reach: reaches[i]! },
    )
  }, source)
}

/** Taps of a go, and goes: together so many pixels are reached. */
const ARM_TAPS = 5
/** Of what is left at the end of an arm nothing is seen. */
const ARM_END = 6

/**
 * An arm of light that goes one way and fades by 1/e every `length` pixels, or every so many of each channel: several
 * goes, each with its taps as far apart as the one before reached. All its light is one.
 */
export function armTaps(length: number | readonly [number, number, number], angle: number): Tap[][] {
  const [right, down] = [Math.cos(angle), -Math.sin(angle)]
  const lengths = typeof length === 'number' ? [length] : length
  const all: Tap[][] = []
  for (let step = 1; step < Math.max(...lengths) * ARM_END; step *= ARM_TAPS) {
    const weights = lengths.map(own => {
      const fading = Array.from({ length: ARM_TAPS }, (_, i) => Math.exp((-i * step) / own))
      const sum = fading.reduce((total, weight) => total + weight, 0)
      return fading.map(weight => weight / sum)
    })
    // Light goes out along the arm: a pixel shows what stands before it
    all.push(
      Array.from({ length: ARM_TAPS }, (_, i) => {
        const place = { x: -i * step * right, y: -i * step * down }
        if (weights.length === 1) return { ...place, weight: weights[0]![i]! }
        return { ...place, weight: 1, shade: weights.map(own => own[i]!) as [number, number, number] }
      }),
    )
  }
  return all
}
