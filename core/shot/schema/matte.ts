// Where a line works: one of the kinds of matte.
import { MATTES, matteKindOf } from '../../matte/registry'
import {
  choice,
  either,
  flag,
  list,
  optional,
  text,
  thing,
  valuesOf,
  type EntryValue,
  type Fields,
  type ThingField,
  type ValueOf,
} from '../../declare/field'

const NAMES = thing({
  kind: choice(['names']),
  /** Of objects or materials. */
  names: list(text(0, 300, { refers: 'object', when: ({ of }: { of: string }) => of === 'objects' }), 65535),
  of: choice(['objects', 'materials']),
  /** As they stand where it says nothing. */
  seen: optional(choice(['straight', 'through', 'mirrored'])),
  invert: flag(),
})
/** Kinds that are told by values alone. */
const valued = (id: string): ThingField =>
  thing(
    {
      kind: choice([id]),
      values: valuesOf(({ kind }: { kind: string }) => optionals(matteKindOf(kind).values)),
      invert: flag(),
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

export type NamesMatte = ValueOf<typeof NAMES>
export interface ValuedMatte {
  kind: 'depth' | 'brightness'
  values: Record<string, EntryValue>
  invert: boolean
}
export type MatteSettings = NamesMatte | ValuedMatte
export const MATTE = either('kind', {
  names: NAMES,
  ...(Object.fromEntries(
    MATTES.filter(({ id }) => id !== 'names').map(({ id }) => [id, valued(id)]),
  ) as unknown as Record<'valued', ThingField & { sample?: ValuedMatte }>),
})
