// Mattes that are said by a formula: how much of each pixel is in.
import { point, type Pixel, type PointKernel } from '../formula/point'
import { Colour, type Operand, type Term } from '../formula/term'
import { smooth } from '../formula/colours'
import type { Box } from '../engine/box'
import { kernelNode, type Node } from '../plan/node'
import { POINT, splat, type Argument } from '../../kernels/record'
import { Grey, ShareOf } from '../../kernels/records'

const OWN = { invert: splat }
type Point<A extends Record<string, Argument>> = PointKernel<typeof POINT & A & typeof OWN>

/** Declares one: what it says of a pixel is held to 0..1 and turned over where that is asked for. */
export const share = <const A extends Record<string, Argument>>(
  name: string,
  values: A,
  formula: (pixel: Pixel<A>) => Term,
): Point<A> =>
  point(name, { ...values, ...OWN } as A & typeof OWN, pixel => {
    const { invert } = pixel.values as unknown as { invert: Term }
    const held = formula(pixel as unknown as Pixel<A>)
    const zero = held.terms.constant(0)
    // What is no number is not in
    const inside = zero.atLeast(held).atMost(1)
    const turned = inside.plus(invert.times(invert.terms.constant(1).minus(inside).minus(inside)))
    return new Colour(turned, turned, turned)
  }) as Point<A>

/** The matte of a picture. source: colour; a single one is taken as grey. */
export function shareNode<A extends Record<string, Argument>>(
  kernel: Point<A>,
  source: Node,
  given: Record<string, unknown>,
  invert: boolean,
  window: Box = source.window,
): Node {
  const colour = source.pixel === 'single' ? kernelNode(Grey, { source }, { window: source.window }) : source
  const told = kernelNode(
    kernel as unknown as PointKernel<typeof POINT & typeof OWN>,
    { source: colour, strength: 1, straight: 0, invert: invert ? 1 : 0, ...given },
    { window },
  )
  return kernelNode(ShareOf, { source: told, which: 0 }, { window })
}

/** Colour as it is where it covers. */
export const divided = ({ colour, alpha }: { colour: Colour; alpha: Term }): Colour =>
  colour.map(channel => alpha.isAbove(0).choose(channel.over(alpha), channel))

/** 1 from low to high, falling smoothly to 0 over `soft` outside each end. */
export function within(value: Term, low: Operand, high: Operand, soft: Term): Term {
  const { terms } = value
  const room = soft.atLeast(1e-6)
  const below = terms.constant(0).plus(low).minus(value)
  const beyond = value.minus(high)
  return smooth(terms.constant(1).minus(below.atLeast(beyond).atLeast(0).over(room)))
}
