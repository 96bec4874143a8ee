// How a matte goes on from what was said before it.
import { around } from '../engine/box'
import { kernelNode, type Node } from '../plan/node'
import { JoinMattes, TurnOver } from '../../kernels/records'

/** And also, but not, only where, apart from what both hold. */
export const JOINS = ['also', 'not', 'only', 'apart'] as const
export type Join = (typeof JOINS)[number]
/** As JoinMattes counts the ways. */
export const HOW: Record<Join, number> = { also: 0, not: 1, only: 2, apart: 3 }

/** The first one begins: what is not in it is all else, and with the rest it is what it is. */
export function joined(before: Node | undefined, own: Node, join: Join): Node {
  if (!before) return join === 'not' ? turnedOver(own) : own
  return kernelNode(
    JoinMattes,
    { first: before, second: own, how: HOW[join] },
    { window: around(before.window, own.window) },
  )
}
export const turnedOver = (source: Node): Node => kernelNode(TurnOver, { source }, { window: source.window })
