// Values of a thing at a frame, from what declares them.
import type { Animatable } from '../time/curve'
import type { EntryValue, NumberField, ValuesField } from './field'

/** The fields that treatments and mattes may have: each a number, or numbers in a row. */
export type EntryFields = Readonly<Record<string, (NumberField | ValuesField) & { optional?: true }>>
/** What they are at a frame. */
export type ValuesAt<F extends EntryFields> = {
  [K in keyof F]: F[K] extends { kind: 'values' } ? readonly [number, number, number] : number
}
type ValueAt = (value: Animatable, frame: number) => number

/** Drift and sway may carry a value past its range. */
export const within = (value: number, low: number, high: number): number => Math.min(high, Math.max(low, value))

const isFour = (field: NumberField | ValuesField): field is ValuesField => field.kind === 'values'
const standing = (field: NumberField | ValuesField): number | number[] =>
  isFour(field)
    ? field.parts.map((_, i) => field.first?.[i] ?? field.neutral ?? 0)
    : (field.neutral ?? field.first ?? 0)

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
      const at = (one: Animatable): number => within(valueAt(one, frame), field.low, field.high)
      if (isFour(field)) return [name, (value as Animatable[]).map(at)]
      const number = at(value as Animatable)
      return [name, field.pixels === 'size' ? number / shrink : number]
    }),
  ) as ValuesAt<F>
}

/** What a new one begins with. */
export const firstValues = (fields: EntryFields): Record<string, number | number[]> =>
  Object.fromEntries(
    Object.entries(fields).map(([name, field]) => [
      name,
      isFour(field) ? (standing(field) as number[]) : (field.first ?? field.neutral ?? field.low),
    ]),
  )

/** Whether all numbers that have a neutral value are at it; false where none has one. */
export function allNeutral(fields: EntryFields, values: Readonly<Record<string, unknown>>): boolean {
  const judged = Object.entries(fields).filter(([, field]) => !isFour(field) && field.neutral !== undefined)
  return judged.length > 0 && judged.every(([name, field]) => values[name] === field.neutral)
}
