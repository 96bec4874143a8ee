// Slips: made, and said in a few words.
import { firstValues } from '../declare/values'
import { matteKindOf } from '../matte/registry'
import type { Seen } from '../render/passes'
import { treatmentOf } from '../treatment/registry'
import type { Join } from '../matte/join'
import {
  identifier,
  type MatteTerm,
  type ShotDocument,
  type Slip,
  type TreatmentSettings,
  type ValuedMatte,
} from './document'
import { addRow, inOrder, rowsOf, type Rows } from './rows'
import type { Row } from '../declare/field'

type Term = MatteTerm & Row

/** Of named things. */
export const namesTerm = (names: readonly string[], seen: Seen = 'straight'): MatteTerm => ({
  kind: 'names',
  names: [...names],
  of: 'objects',
  ...(seen === 'straight' ? {} : { seen }),
  join: 'also',
  on: true,
  invert: false,
})
/** Places that a new one begins with are said in pixels of a frame of this size. */
const SAID_IN = { width: 1280, height: 720 }
/** Of a kind that is told by values alone, as a new one begins in a frame. */
export function valuedTerm(kind: string, frame = SAID_IN): ValuedMatte {
  const fields = matteKindOf(kind).values
  const values = firstValues(fields)
  for (const [name, field] of Object.entries(fields)) {
    if (field.kind !== 'number' || !field.pixels || field.pixels === 'size') continue
    const side = field.pixels === 'across' ? 'width' : 'height'
    values[name] = Math.round(((values[name] as number) * frame[side]) / SAID_IN[side])
  }
  return { kind: kind as ValuedMatte['kind'], values, join: 'also', on: true, invert: false }
}
/** A line of a kind as a new one begins. */
export function newTerm(kind: string, frame = SAID_IN): MatteTerm {
  const line = { join: 'also', on: true, invert: false } as const
  if (kind === 'shape') return { kind, shapes: {}, ...line }
  if (kind === 'brush') return { kind, strokes: {}, ...line }
  return kind === 'names' ? namesTerm([]) : valuedTerm(kind, frame)
}
/** The line of that id, wherever in the shot it is. */
export function termIn(document: ShotDocument, id: string): MatteTerm | undefined {
  for (const { slip } of slipsOf(document)) if (Object.hasOwn(slip.terms, id)) return slip.terms[id]
  return undefined
}
/** The recipe that has a line of that id, wherever in the shot it is; also within a look. */
export function recipeOf(document: ShotDocument, id: string): Rows<TreatmentSettings> | undefined {
  const within = (rows: Rows<TreatmentSettings>): Rows<TreatmentSettings> | undefined => {
    if (Object.hasOwn(rows, id)) return rows
    for (const { lines } of Object.values(rows)) {
      const found = lines && within(lines)
      if (found) return found
    }
    return undefined
  }
  for (const rows of [document.finish, ...Object.values(document.build.layers).map(layer => layer.treatments)]) {
    const found = within(rows)
    if (found) return found
  }
  return undefined
}
export const keptTerm = (matte: string): MatteTerm => ({ kind: 'kept', matte, join: 'also', on: true, invert: false })

export const slipOf = (...terms: MatteTerm[]): Slip => ({
  terms: rowsOf<Term>(terms.map(term => ({ ...term, id: identifier() }) as never)),
  refine: {},
  invert: false,
})
/** Adds a line at the end; it goes on from those before it. Returns its id. */
export function addTerm({ terms }: Slip, term: MatteTerm): string {
  const id = identifier()
  addRow(terms as Rows<Term>, { ...term, id } as never)
  return id
}

/** How a line goes on from those before it, as it is said everywhere. */
export const JOIN_WORDS: Record<Join, string> = {
  also: 'and also',
  not: 'but not',
  only: 'only where',
  apart: 'apart from what both hold,',
}
/** Said after a thing's name. */
export const SEEN_WORDS: Record<Seen, string> = { straight: '', through: ' through glass', mirrored: ' mirrored' }
/** A line in a few words. */
export function wordsOfTerm(term: MatteTerm, mattes: ShotDocument['mattes']): string {
  const own =
    term.kind === 'names'
      ? `${term.names.join(', ') || 'nothing'}${SEEN_WORDS[term.seen ?? 'straight']}`
      : term.kind === 'kept'
        ? (mattes[term.matte]?.name ?? 'a matte that is gone')
        : matteKindOf(term.kind).label.toLowerCase()
  return term.invert ? `all but ${own}` : own
}
/** A slip in a few words. */
export function wordsOf({ terms, invert }: Slip, mattes: ShotDocument['mattes']): string {
  const lines = inOrder(terms as Rows<Term>).filter(({ on }) => on)
  const words = lines
    .map((term, i) =>
      i
        ? `${JOIN_WORDS[term.join]} ${wordsOfTerm(term, mattes)}`
        : `${term.join === 'not' ? 'all but ' : ''}${wordsOfTerm(term, mattes)}`,
    )
    .join(' ')
  if (!words) return 'everything'
  return invert ? (lines.length > 1 ? `all but (${words})` : `all but ${words}`) : words
}

/** Where a kept matte is used: the layers, lines of treatments and kept mattes that name it, by what they are called. */
export function usesOf(document: ShotDocument, id: string): { slip: Slip; label: string }[] {
  return slipsOf(document).filter(({ slip }) =>
    Object.values(slip.terms).some(term => term.kind === 'kept' && term.matte === id),
  )
}
/** The same in a sentence. */
export function usesSaid(document: ShotDocument, id: string): string {
  const found = usesOf(document, id)
  return `Used ${found.length === 1 ? 'once' : `${found.length} times`}: ${found.map(({ label }) => label).join('; ')}.`
}
/** Every slip of a shot, with what it is called. */
export function slipsOf(document: ShotDocument): { slip: Slip; label: string }[] {
  const lines = (rows: ShotDocument['finish'], of: string): { slip: Slip; label: string }[] =>
    inOrder(rows).flatMap(({ matte, kind, name, lines: own }) => [
      ...(matte ? [{ slip: matte, label: `${name ?? treatmentOf(kind).label} of ${of}` }] : []),
      ...(own ? lines(own, `the look ${name}`) : []),
    ])
  return [
    ...inOrder(document.build.layers).flatMap(layer => [
      ...('matte' in layer && layer.matte ? [{ slip: layer.matte, label: `what ${layer.name} is cut to` }] : []),
      ...('ground' in layer && layer.ground
        ? [{ slip: layer.ground, label: `where the shadow of ${layer.name} falls` }]
        : []),
      ...('wet' in layer && layer.wet ? [{ slip: layer.wet, label: `where ${layer.name} is mirrored` }] : []),
      ...lines(layer.treatments, layer.name),
    ]),
    ...lines(document.finish, 'the finish'),
    ...inOrder(document.mattes).map(({ slip, name }) => ({ slip, label: name })),
  ]
}
