// Values of a thing at a frame, from what declares them.
import type { Animatable } from '../time/curve'
import type { ChoiceField, EntryValue, ListField, NumberField, ValuesField } from './field'

type EntryField = NumberField | ValuesField | ChoiceField | ListField
/** The fields that treatments and mattes may have: each a number, numbers in a row, one of some words, or points of a curve. */
export type EntryFields = Readonly<Record<string, EntryField & { optional?: true }>>
/** What they are at a frame. */
export type ValuesAt<F extends EntryFields> = {
  [K in keyof F]: F[K] extends { kind: 'values' }
    ? readonly [number, number, number]
    : F[K] extends { kind: 'choice'; sample?: infer C }
      ? Exclude<C, undefined>
      : F[K] extends { kind: 'list'; sample?: infer L }
        ? Readonly<Exclude<L, undefined>>
        : number
}
type ValueAt = (value: Animatable, frame: number) => number

/** Drift and sway may carry a value past its range. */
export const within = (value: number, low: number, high: number): number => Math.min(high, Math.max(low, value))

/** Where a value stands that is not there. */
function standing(field: EntryField): number | number[] | string | number[][] {
  if (field.kind === 'list') return (field.first ?? []).map(row => [...row])
  if (field.kind === 'choice') return field.neutral ?? field.first ?? (field.choices[0] as string)
  if (field.kind === 'values') return field.parts.map((_, i) => field.first?.[i] ?? field.neutral ?? 0)
  return field.neutral ?? field.first ?? 0
}

/**
 * The values of a thing at a frame, held to their ranges; what is not there is neutral. shrink: lengths in pixels of the
 * frame are so many times less at the size that is worked at.
 */
export function valuesAt<F extends EntryFields>(
  fields: F,
  held: Readonly<Record<string, EntryValue>>,
  frame: number,
  valueAt: ValueAt,
  shrink = 1,
): ValuesAt<F> {
  return Object.fromEntries(
    Object.entries(fields).map(([name, field]) => {
      const value = held[name] ?? standing(field)
      if (field.kind === 'list') return [name, value]
      if (field.kind === 'choice') return [name, field.choices.includes(value as string) ? value : standing(field)]
      const at = (one: Animatable): number => within(valueAt(one, frame), field.low, field.high)
      if (field.kind === 'values') return [name, (value as Animatable[]).map(at)]
      const number = at(value as Animatable)
      return [name, field.pixels ? number / shrink : number]
    }),
  ) as ValuesAt<F>
}

/** Whether a value counts where the others stand as they do: what it goes with counts, and says so. */
export function counts(fields: EntryFields, name: string, held: Readonly<Record<string, EntryValue>>): boolean {
  const beside = fields[name]!.with
  if (!beside) return true
  return (
    counts(fields, beside.name, held) &&
    beside.is.includes((held[beside.name] ?? standing(fields[beside.name]!)) as string)
  )
}

/** A sentence as it stands at such values: what is in brackets is left out where none of its values counts. */
export const sentenceAt = (sentence: string, fields: EntryFields, held: Readonly<Record<string, EntryValue>>): string =>
  sentence.replace(/\[([^[\]]*)\]/g, (_, part: string) =>
    [...part.matchAll(/\{(\w+)\}/g)].some(([, name]) => counts(fields, name!, held)) ? part : '',
  )

/** What a new one begins with. */
export const firstValues = (fields: EntryFields): Record<string, number | number[] | string | number[][]> =>
  Object.fromEntries(
    Object.entries(fields).map(([name, field]) => [
      name,
      field.kind === 'number'
        ? (field.first ?? field.neutral ?? field.low)
        : field.kind === 'choice'
          ? (field.first ?? standing(field))
          : standing(field),
    ]),
  )

/** Whether all that have a neutral value are at it; false where none has one. */
export function allNeutral(fields: EntryFields, values: Readonly<Record<string, unknown>>): boolean {
  const judged = Object.entries(fields).flatMap(([name, field]) =>
    field.kind === 'list' || field.neutral === undefined ? [] : [[name, field.neutral] as const],
  )
  return judged.length > 0 && judged.every(([name, neutral]) => [values[name]].flat().every(value => value === neutral))
}
