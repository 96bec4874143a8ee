// Formulas laid on pictures.
import type { PointKernel } from '../formula/point'
import type { Kernel, POINT } from '../../kernels/record'
import { kernelNode, type Node, type NodeArguments } from './node'

/**
 * A treatment of each pixel by itself. straight: its values are for colour that is divided by alpha.
 * told: what its tables are made from, as kernelNode has it.
 * `pointNode(Saturation, input, { amount })`
 */
export function pointNode<K extends PointKernel<typeof POINT>>(
  kernel: K,
  { colour, strength, matte }: { colour: Node; strength: number; matte?: Node },
  given: Omit<NodeArguments<K>, keyof NodeArguments<Kernel<typeof POINT>>>,
  { straight = false, told }: { straight?: boolean; told?: unknown } = {},
): Node {
  return kernelNode(
    kernel,
    { source: colour, matte, strength, straight: straight ? 1 : 0, ...given } as unknown as NodeArguments<K>,
    { window: colour.window, told },
  )
}

/** On all of a picture, whole. */
export const whole = (colour: Node): { colour: Node; strength: number } => ({ colour, strength: 1 })
