// What slips hold of a picture: their lines joined one after another, and refined.
import { valuesAt } from '../declare/values'
import { around } from '../engine/box'
import type { MatteInput, Unmixed } from '../matte/matte'
import { matteKindOf } from '../matte/registry'
import { refinerOf } from '../matte/refine/registry'
import { kernelNode, type Node } from '../plan/node'
import { chosenBy } from '../matte/called'
import { cutTo, type Picture } from '../plan/picture'
import { boxOfSize, type Size } from '../plan/size'
import { namesOf } from '../render/openpasses'
import { passOf } from '../render/passes'
import type { PassNodes } from '../render/passnodes'
import type { KeptMatte, MatteTerm, NamesMatte, PictureReference, Slip } from '../shot/document'
import { shapesAt, strokesAt } from '../shot/drawn'
import { inOrder, type Rows } from '../shot/rows'
import { HOW, joined, turnedOver } from '../matte/join'
import { valueAt } from '../time/curve'
import { CoverageMatte, JoinMattes } from '../../kernels/records'
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
  /** A picture file at the frame, as the plate fits what is worked on; undefined where a clip shows nothing. Throws StillPacked. */
  taken?: (reference: PictureReference) => Node | undefined
  /** What comes to the slip at another frame, and what belongs to that, where it is known. Throws StillPacked. */
  there?: ((frame: number) => { picture: Picture; by: MatteBy }) | undefined
}
type Held = Node | 'everywhere' | undefined

/**
 * What a slip holds of a picture, one float a pixel; everywhere where it has no line that is on, undefined where one of
 * them cannot be made. Throws StillPacked.
 */
export const matteNode = (slip: Slip, picture: Picture, by: MatteBy): Held => slipNode(slip, picture, by, [])

/** within: kept mattes that this one stands in; one that stands in itself holds nothing. */
function slipNode(slip: Slip, picture: Picture, by: MatteBy, within: readonly string[]): Held {
  const lines = inOrder(slip.refine).filter(({ on }) => on)
  const whole = refinedNode(slip, lines, picture, by, within)
  return slip.invert && whole && whole !== 'everywhere' ? turnedOver(whole) : whole
}
/** The lines of a slip joined, and the first of those that refine them. */
function refinedNode(
  slip: Slip,
  lines: readonly Slip['refine'][string][],
  picture: Picture,
  by: MatteBy,
  within: readonly string[],
): Held {
  const line = lines.at(-1)
  if (!line) return joinedNode(slip, picture, by, within)
  const before = lines.slice(0, -1)
  const matte = refinedNode(slip, before, picture, by, within)
  if (!matte || matte === 'everywhere') return matte
  const { values, plan } = refinerOf(line.kind)
  const { width, height, shrink } = by.size
  const here = { matte, picture: picture.colour }
  const at = (frames: number): typeof here => {
    const there = frames === 0 ? undefined : by.there?.(by.frame + frames)
    const held = there && refinedNode(slip, before, there.picture, there.by, within)
    return held && held !== 'everywhere' ? { matte: held, picture: there.picture.colour } : here
  }
  return plan({ ...here, at, width, height }, valuesAt(values, line.values, by.frame, valueAt, shrink) as never)
}
function joinedNode(slip: Slip, picture: Picture, by: MatteBy, within: readonly string[]): Held {
  let whole: Held = 'everywhere'
  for (const term of inOrder(slip.terms as Rows<MatteTerm & Row>)) {
    if (!term.on) continue
    const own = termNode(term, picture, by, within)
    if (!own) return undefined
    whole = joined(whole === 'everywhere' ? undefined : whole, own, term.join)
  }
  return whole
}

function termNode(term: MatteTerm, picture: Picture, by: MatteBy, within: readonly string[]): Node | undefined {
  if (term.kind === 'kept') {
    const kept = by.mattes[term.matte]
    if (!kept || within.includes(term.matte)) return undefined
    const own = slipNode(kept.slip, picture, by, [...within, term.matte])
    return own === 'everywhere' || !own ? undefined : term.invert ? turnedOver(own) : own
  }
  return matteKindOf(term.kind).plan(inputOf(term, picture, by), valuesOf(term, by))
}

/** Passes by their ids. Throws StillPacked. */
export const passIn =
  (passes: PassNodes | undefined) =>
  (id: string): Node | undefined =>
    !passes || !passOf(id) ? undefined : id === 'position' ? passes.places() : passes.plain(passOf(id)!.channels)

type OwnTerm = Exclude<MatteTerm, { kind: 'kept' }>
function inputOf(
  term: OwnTerm,
  picture: Picture,
  { frame, size, passes, relative, taken, there }: MatteBy,
): MatteInput {
  const left = size.left / size.shrink
  const top = size.top / size.shrink
  const place = { shrink: size.shrink, left, top }
  return {
    ...picture,
    invert: term.invert,
    size,
    area: around(boxOfSize(size), picture.colour.window),
    left,
    top,
    relative,
    taken: () => ('picture' in term && term.picture ? taken?.(term.picture) : undefined),
    at: there && (other => there(other).picture),
    shapes: () => (term.kind === 'shape' ? shapesAt(term, frame, place) : []),
    strokes: () => (term.kind === 'brush' ? strokesAt(term, frame, place) : []),
    pass: passIn(passes),
    named: share => (passes && term.kind === 'names' ? namedNode(term, passes, share) : undefined),
  }
}
const valuesOf = (term: OwnTerm, { frame, size }: MatteBy): never =>
  valuesAt(matteKindOf(term.kind).values, 'values' in term ? term.values : {}, frame, valueAt, size.shrink) as never

/**
 * A picture cut to what a slip holds. What its lines tell from what is behind (a key) loses that first, one after
 * another. Undefined where the slip cannot be made. Throws StillPacked.
 */
export function cutOut(slip: Slip, picture: Picture, by: MatteBy): Unmixed | undefined {
  const matte = matteNode(slip, picture, by)
  if (!matte) return undefined
  if (matte === 'everywhere') return { colour: picture.colour }
  const keys = unmixing(slip, by, [])
  const unmixed = keys.reduce<Unmixed>(
    ({ colour, spill }, term) => {
      const next = matteKindOf(term.kind).unmix!(inputOf(term, { ...picture, colour }, by), valuesOf(term, by))
      return { colour: next.colour, spill: next.spill ?? spill }
    },
    { colour: picture.colour },
  )
  const { spill } = unmixed
  const colour = cutTo(unmixed.colour, matte)
  return {
    colour,
    spill: spill && kernelNode(JoinMattes, { first: spill, second: matte, how: HOW.only }, { window: spill.window }),
  }
}
/**
 * The lines of a slip, and of those kept in it, that tell a thing from what is behind it and hold the thing: where all but
 * that is held, what is behind stays as it is.
 */
function unmixing(slip: Slip, by: MatteBy, within: readonly string[]): OwnTerm[] {
  if (slip.invert) return []
  return inOrder(slip.terms as Rows<MatteTerm & Row>).flatMap(term => {
    if (!term.on || term.invert || term.join === 'not') return []
    if (term.kind !== 'kept') return matteKindOf(term.kind).unmix ? [term] : []
    const kept = by.mattes[term.matte]
    return kept && !within.includes(term.matte) ? unmixing(kept.slip, by, [...within, term.matte]) : []
  })
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
      selection: chosenBy(settings.names, names),
      invert: settings.invert ? 1 : 0,
      relative: relative ? 1 : 0,
    },
    { window: boxOfSize(passes.size) },
  )
}
