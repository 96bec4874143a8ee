// Where a line works: a slip, which is lines of mattes joined one after another, and lines that refine the whole.
import { JOINS } from '../../matte/join'
import { MATTES, matteKindOf } from '../../matte/registry'
import { REFINERS, refinerOf } from '../../matte/refine/registry'
import { SHAPES, STROKES } from './drawn'
import { PICTURE, type PictureReference } from './picture'
import {
  choice,
  either,
  flag,
  list,
  name,
  optional,
  rows,
  text,
  thing,
  valuesOf,
  type EntryValue,
  type Fields,
  type Row,
  type ThingField,
  type ValueOf,
} from '../../declare/field'

/** Of every line of a slip. */
const LINE = { join: choice(JOINS), on: flag(), invert: flag() }

const NAMES = thing({
  kind: choice(['names']),
  /** Each as core/matte/called.ts reads it. */
  names: list(text(0, 300, { refers: 'object', when: ({ of }: { of: string }) => of === 'objects' }), 65535),
  of: choice(['objects', 'materials', 'assets']),
  /** As they stand where it says nothing. */
  seen: optional(choice(['straight', 'through', 'mirrored'])),
  ...LINE,
})
/** A matte that is kept under a name of the shot. */
const KEPT = thing({ kind: choice(['kept']), matte: text(1, 40, { refers: 'matte' }), ...LINE })
const SHAPE = thing({ kind: choice(['shape']), shapes: SHAPES, ...LINE }, { title: 'matte by shape' })
const BRUSH = thing({ kind: choice(['brush']), strokes: STROKES, ...LINE }, { title: 'matte by brush' })
/** Kinds that are told by values alone. */
const valued = (id: string): ThingField =>
  thing(
    {
      kind: choice([id]),
      values: valuesOf(({ kind }: { kind: string }) => optionals(matteKindOf(kind).values)),
      ...(matteKindOf(id).pictured ? { picture: optional(PICTURE) } : {}),
      ...LINE,
    },
    { title: `matte by ${matteKindOf(id).label.toLowerCase()}` },
  )
/** What is not there is neutral. */
export const optionals = (fields: Fields): Fields => {
  const known = OPTIONALS.get(fields)
  if (known) return known
  const made = Object.fromEntries(Object.entries(fields).map(([name, field]) => [name, optional(field)]))
  OPTIONALS.set(fields, made)
  return made
}
const OPTIONALS = new WeakMap<Fields, Fields>()

type Line = ValueOf<typeof KEPT>
export type NamesMatte = ValueOf<typeof NAMES>
export type KeptTerm = ValueOf<typeof KEPT>
export type ShapeMatte = ValueOf<typeof SHAPE>
export type BrushMatte = ValueOf<typeof BRUSH>
type ValuedKind =
  | 'brightness'
  | 'change'
  | 'channel'
  | 'colour'
  | 'depth'
  | 'facing'
  | 'gradient'
  | 'key'
  | 'noise'
  | 'occlusion'
  | 'picture'
  | 'place'
export interface ValuedMatte extends Pick<Line, 'join' | 'on' | 'invert'> {
  kind: ValuedKind
  values: Record<string, EntryValue>
  /** What a line is made of beside what comes to it; of kinds that ask for it. */
  picture?: PictureReference
}
/** Kinds whose lines hold more than values. */
const OWN_LINES: readonly string[] = ['names', 'shape', 'brush']
const TERM = either('kind', {
  names: NAMES,
  kept: KEPT,
  shape: SHAPE,
  brush: BRUSH,
  ...(Object.fromEntries(
    MATTES.filter(({ id }) => !OWN_LINES.includes(id)).map(({ id }) => [id, valued(id)]),
  ) as unknown as Record<'valued', ThingField & { sample?: ValuedMatte }>),
})
/** A line of a slip, yet without its place in one. */
export type MatteTerm = NamesMatte | KeptTerm | ShapeMatte | BrushMatte | ValuedMatte

const REFINER = thing(
  {
    kind: choice(REFINERS.map(({ id }) => id)),
    on: flag(),
    values: valuesOf(({ kind }: { kind: string }) => optionals(refinerOf(kind).values)),
  },
  { title: ({ kind }) => `matte ${refinerOf(kind).label.toLowerCase()}` },
)
export type RefineSettings = ValueOf<typeof REFINER> & Row

export const SLIP = thing({ terms: rows(TERM, 60), refine: rows(REFINER, 20), invert: flag() })
export type Slip = ValueOf<typeof SLIP>
/** A slip that a shot keeps under a name: what uses it goes with it. */
export const KEPT_MATTE = thing({ name: name(), slip: SLIP }, { title: ({ name }) => name })
export type KeptMatte = ValueOf<typeof KEPT_MATTE> & Row
