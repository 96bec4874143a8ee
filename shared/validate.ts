// Whether a document is a valid shot: class-validator on classes made from the declarations of core/shot/schema.
import { ownOf } from '../core/declare/own'
import {
  ArrayMaxSize,
  IsArray,
  IsBoolean,
  IsDefined,
  IsIn,
  IsInt,
  IsOptional,
  IsString,
  Length,
  Max,
  Min,
  validateSync,
  type ValidationError,
  type ValidationOptions,
} from 'class-validator'
import { ROW_FIELDS, type Field, type Fields } from '../core/declare/field'
import { SHOT } from '../core/shot/schema/shot'
import { fieldsIn, thingField } from '../core/shot/schema/walk'
import { IsAnimatable, IsAnimatables, IsBlob, IsNumbers, IsOrder, IsRecord } from './decorators'

/** A decorator of class-validator. */
type Check = (target: object, property: string) => void

/** What class-validator is to look for in a value that has no parts of its own to be looked at one by one. */
function checksOf(field: Field, options?: ValidationOptions): Check[] {
  switch (field.kind) {
    case 'number':
      return field.animated
        ? [IsAnimatable(field.low, field.high, options)]
        : [...(field.whole ? [IsInt(options)] : []), Min(field.low, options), Max(field.high, options)]
    case 'flag':
      return [IsBoolean(options)]
    case 'choice':
      return [IsIn(field.choices, options)]
    case 'text':
      return [IsString(options), Length(field.least, field.most, options)]
    case 'numbers':
      return [IsNumbers(field, options)]
    case 'values':
      return [IsAnimatables(field.parts.length, field.low, field.high, options)]
    case 'blob':
      return [IsBlob({ ...options, nullable: !!field.nullable && !!options?.each })]
    case 'order':
      return [IsOrder(options)]
    case 'list':
      return [IsArray(), ArrayMaxSize(field.most), ...(isWhole(field.of) ? checksOf(field.of, { each: true }) : [])]
    case 'rows':
    case 'named':
      return [IsRecord(field.most), ...(isWhole(field.of) ? checksOf(field.of, { each: true }) : [])]
    case 'thing':
    case 'either':
    case 'values of':
      return [IsRecord(Infinity)]
  }
}
/** Has no parts that are looked at one by one. */
const isWhole = ({ kind }: Field): boolean => !['thing', 'either', 'rows', 'named', 'list', 'values of'].includes(kind)

const classes = new WeakMap<Fields, new () => object>()
function classOf(fields: Fields): new () => object {
  const made = classes.get(fields)
  if (made) return made
  const Made = class {}
  for (const [key, field] of Object.entries(fields))
    for (const check of [field.optional || field.nullable ? IsOptional() : IsDefined(), ...checksOf(field)])
      check(Made.prototype, key)
  classes.set(fields, Made)
  return Made
}
const rowFields = new WeakMap<Fields, Fields>()
/** The fields of a thing that is kept by its id. */
function asRow(fields: Fields): Fields {
  const made = rowFields.get(fields) ?? { ...fields, ...ROW_FIELDS }
  rowFields.set(fields, made)
  return made
}

const STRICT = { whitelist: true, forbidNonWhitelisted: true, forbidUnknownValues: true, stopAtFirstError: true }

/** Failures of validation as sentences, with the path of each. */
export function sentences(errors: ValidationError[], path = ''): string[] {
  return errors.flatMap(error => {
    const here = join(path, error.property)
    const own = Object.values(error.constraints ?? {}).map(message => `${here}: ${message}`)
    return [...own, ...sentences(error.children ?? [], here)]
  })
}
const join = (path: string, key: string): string => (path ? `${path}.${key}` : key)

/** Faults of the fields of one thing, and of all that they hold. */
function faultsOf(fields: Fields, value: object, path: string): string[] {
  // A class of nothing is unknown to class-validator
  if (!Object.keys(fields).length) return Object.keys(value).map(key => `${join(path, key)}: should not exist`)
  const instance = new (classOf(fields))() as Record<string, unknown>
  for (const [key, held] of Object.entries(value)) {
    const field = ownOf(fields, key)
    // class-validator looks at each value of a Map, not of a record
    instance[key] =
      field?.kind === 'named' && isWhole(field.of) && isRecord(held) ? new Map(Object.entries(held)) : held
  }
  const own = sentences(validateSync(instance, STRICT), path)
  if (own.length) return own
  return Object.entries(fields).flatMap(([key, field]) =>
    inside(field, (value as Record<string, unknown>)[key], value, join(path, key)),
  )
}
const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** Faults of what a value holds; of the value itself class-validator has told. */
function inside(field: Field, value: unknown, owner: unknown, path: string): string[] {
  if (value === undefined || value === null || isWhole(field)) return []
  switch (field.kind) {
    case 'thing':
    case 'either': {
      if (!isRecord(value)) return [`${path}: must be an object`]
      const kind = thingField(field, value)
      if (!kind)
        return field.kind === 'either'
          ? [`${join(path, field.by)}: must be one of the following values: ${Object.keys(field.kinds).join(', ')}`]
          : []
      const faults = faultsOf(kind.fields, value, path)
      return faults.length ? faults : (kind.faults?.(value as never) ?? []).map(fault => join(path, fault))
    }
    case 'values of':
      return faultsOf(fieldsIn(field, value, owner), value, path)
    case 'rows':
      return Object.entries(value).flatMap(([key, row]) => {
        const here = join(path, key)
        if (!isRecord(row)) return [`${here}: must be an object`]
        if (row.id !== key) return [`${here}.id: must be the name under which it stands`]
        const kind = thingField(field.of, row)
        return inside(kind ? { ...kind, fields: asRow(kind.fields) } : field.of, row, owner, here)
      })
    default:
      return Object.entries(value).flatMap(([key, held]) =>
        inside((field as { of: Field }).of, held, owner, join(path, key)),
      )
  }
}

/** What is wrong with a document, in sentences; empty when nothing is. */
export function documentFaults(value: unknown): string[] {
  return isRecord(value) ? inside(SHOT, value, value, '') : [': must be an object']
}
