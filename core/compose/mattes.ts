// What slips hold of a picture: their lines joined one after another, and refined.
import { valuesAt } from '../declare/values'
import { around } from '../engine/box'
import { matteKindOf } from '../matte/registry'
import { refinerOf } from '../matte/refine/registry'
import { kernelNode, type Node } from '../plan/node'
import type { Picture } from '../plan/picture'
import { boxOfSize, type Size } from '../plan/size'
import { namesOf } from '../render/openpasses'
import { passOf } from '../render/passes'
import type { PassNodes } from '../render/passnodes'
import type { KeptMatte, MatteTerm, NamesMatte, Slip } from '../shot/document'
import { inOrder, type Rows } from '../shot/rows'
import type { Join } from '../shot/schema/matte'
import { valueAt } from '../time/curve'
import { CoverageMatte, JoinMattes, TurnOver } from '../../kernels/records'
import type { Row } from '../declare/field'

export interface MatteBy {
  frame: number
  size: Size
  /** Passes at that size and frame, where there are any. Throws StillPacked. */
  passes: PassNodes | undefined
  /** Whether names count as a share of what covers the pixel (for premultiplied layers). */
  relative: boolean
  /** The shot's kept mattes. */
  mattes: Rows<KeptMatte>
}
type Held = Node | 'everywhere' | undefined

/**
 * What a slip holds of a picture, one float a pixel; everywhere where it has no line that is on, undefined where one of
 * them cannot be made. Throws StillPacked.
 */
export const matteNode = (slip: Slip, picture: Picture, by: MatteBy): Held => slipNode(slip, picture, by, [])

/** within: kept mattes that this one stands in; one that stands in itself holds nothing. */
function slipNode(slip: Slip, picture: Picture, by: MatteBy, within: readonly string[]): Held {
  let whole: Held = 'everywhere'
  for (const term of inOrder(slip.terms as Rows<MatteTerm & Row>)) {
    if (!term.on) continue
    const own = termNode(term, picture, by, within)
    if (!own) return undefined
    whole = joined(whole, own, term.join)
  }
  if (whole === 'everywhere') return whole
  for (const line of inOrder(slip.refine)) {
    if (!line.on) continue
    const { values, plan } = refinerOf(line.kind)
    const { width, height, shrink } = by.size
    whole = plan({ matte: whole, width, height }, valuesAt(values, line.values, by.frame, valueAt, shrink) as never)
  }
  return slip.invert ? turnedOver(whole) : whole
}

const HOW: Record<Join, number> = { also: 0, not: 1, only: 2, apart: 3 }
/** The first line begins: what is not in it is all else, and with the rest it is what it is. */
function joined(before: Held, own: Node, join: Join): Node {
  if (!before || before === 'everywhere') return join === 'not' ? turnedOver(own) : own
  return kernelNode(
    JoinMattes,
    { first: before, second: own, how: HOW[join] },
    { window: around(before.window, own.window) },
  )
}
const turnedOver = (source: Node): Node => kernelNode(TurnOver, { source }, { window: source.window })

function termNode(term: MatteTerm, picture: Picture, by: MatteBy, within: readonly string[]): Node | undefined {
  if (term.kind === 'kept') {
    const kept = by.mattes[term.matte]
    if (!kept || within.includes(term.matte)) return undefined
    const own = slipNode(kept.slip, picture, by, [...within, term.matte])
    return own === 'everywhere' || !own ? undefined : term.invert ? turnedOver(own) : own
  }
  const { frame, size, passes, relative } = by
  const kind = matteKindOf(term.kind)
  return kind.plan(
    {
      ...picture,
      invert: term.invert,
      area: around(boxOfSize(size), picture.colour.window),
      left: size.left / size.shrink,
      top: size.top / size.shrink,
      relative,
      pass: id => (passes && passOf(id) ? passes.plain(passOf(id)!.channels) : undefined),
      named: share => (passes && term.kind === 'names' ? namedNode(term, passes, share) : undefined),
    },
    valuesAt(kind.values, 'values' in term ? term.values : {}, frame, valueAt, size.shrink) as never,
  )
}

/** Coverage of the named things. relative: as a share of what covers the pixel. Throws StillPacked. */
export function namedNode(
  settings: Pick<NamesMatte, 'names' | 'of' | 'seen' | 'invert'>,
  passes: PassNodes,
  relative: boolean,
): Node {
  const names = namesOf(passes.file, settings.of)
  return kernelNode(
    CoverageMatte,
    {
      coverage: passes.coverage(settings.of, settings.seen),
      selection: Float32Array.from([0, ...names.map(name => (settings.names.includes(name) ? 1 : 0))]),
      invert: settings.invert ? 1 : 0,
      relative: relative ? 1 : 0,
    },
    { window: boxOfSize(passes.size) },
  )
}
