// Ways through a document along its declaration.
import type { Field, Fields } from '../../declare/field'
import { SHOT } from './shot'
import type { ShotDocument } from './shot'

type Holder = Record<string | number, unknown>
/** A value of the document with what declares it. */
export interface Place {
  field: Field
  value: unknown
  /** The nearest thing round it. */
  owner: Holder
  /** Puts another value in its place. */
  put(value: unknown): void
}

/** The field of one entry of a record of things, by what the entry says of itself. Undefined: of no kind there is. */
export function thingField(field: Field, value: unknown): Extract<Field, { kind: 'thing' }> | undefined {
  if (field.kind === 'thing') return field
  if (field.kind !== 'either') return undefined
  const kind = (value as Holder | null)?.[field.by]
  return typeof kind === 'string' && Object.hasOwn(field.kinds, kind) ? field.kinds[kind] : undefined
}

/** The fields that a value is made of, by their names or places; none for one that is whole. `owner`: round a plain value. */
export function fieldsIn(field: Field, value: unknown, owner: unknown): Fields {
  if (typeof value !== 'object' || value === null) return {}
  const each = (of: Field): Fields => Object.fromEntries(Object.keys(value).map(key => [key, of]))
  switch (field.kind) {
    case 'thing':
    case 'either':
      return thingField(field, value)?.fields ?? {}
    case 'rows':
    case 'named':
    case 'list':
      return each(field.of)
    case 'values of':
      return field.fieldsOf(owner as never)
    default:
      return {}
  }
}

/** Every value that is declared and there, each before what it holds. */
export function eachPlace(document: ShotDocument, visit: (place: Place) => void): void {
  const within = (field: Field, held: unknown, owner: Holder): void => {
    const holder = held as Holder
    const inside = field.kind === 'thing' || field.kind === 'either' ? holder : owner
    for (const [key, of] of Object.entries(fieldsIn(field, held, owner))) {
      const value = holder[key]
      if (value === undefined || value === null) continue
      visit({
        field: of,
        value,
        owner: inside,
        put: other => {
          holder[key] = other
        },
      })
      within(of, holder[key], inside)
    }
  }
  within(SHOT, document, document as unknown as Holder)
}

/** What declares the value at a place, and what the things round it are called from the outermost in. */
export function declared(
  document: ShotDocument,
  path: readonly string[],
): { field: Field; titles: string[] } | undefined {
  let field: Field = SHOT
  let value: unknown = document
  let owner: unknown = document
  const titles: string[] = []
  for (const key of path) {
    if (field.kind === 'thing' || field.kind === 'either') owner = value
    const fields = fieldsIn(field, value, owner)
    if (!Object.hasOwn(fields, key)) return field.kind === 'values' ? { field, titles } : undefined
    const round: Field = field
    field = fields[key]!
    value = (value as Holder)[key]
    const title = titleOf(field, value) ?? (round.kind === 'named' && round.refers === 'object' ? key : undefined)
    if (title) titles.push(title)
  }
  return { field, titles }
}

/** What a thing is called where its values are listed. */
function titleOf(field: Field, value: unknown): string | undefined {
  const title = field.kind === 'named' ? field.title : thingField(field, value)?.title
  return typeof title === 'function' ? title(value as never) : title
}
