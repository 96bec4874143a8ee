// What a value field needs to know of a number, from what the document declares of it (core/shot/schema).
import type { NumberField, ValuesField } from '../../core/declare/field'

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1)

export interface FieldProps {
  label: string
  help: string
  low: number
  high: number
  step: number
  digits: number
  unit: string
  neutral?: number
  /** Cannot change over time; has no fraction. */
  still?: boolean
  whole?: boolean
}
/** In a line of its own, which begins with what it is called. */
export function lineProps({
  label = '',
  help = '',
  low,
  high,
  hand,
  step,
  digits,
  unit,
  neutral,
  animated,
  whole,
}: NumberField): FieldProps {
  const [from, to] = hand ?? [low, high]
  return { label, help, low: from, high: to, step, digits, unit, neutral, still: !animated, whole }
}
/** One of several numbers in a row. */
export const partProps = (
  { parts, help = '', hand: [low, high], step, digits, neutral }: ValuesField,
  index: number,
): FieldProps => ({ label: capital(parts[index]!), help, low, high, step, digits, unit: '', neutral })
type Numbers<F> = { [K in keyof F as F[K] extends { kind: 'number' } ? K : never]: FieldProps }
/** All numbers of a thing by their names, to stand within a sentence. */
export const propsOf = <F extends object>(fields: F): Numbers<F> =>
  Object.fromEntries(
    Object.entries(fields as Record<string, NumberField>)
      .filter(([, { kind }]) => kind === 'number')
      .map(([key, field]) => [key, { ...lineProps(field), label: capital(field.label ?? key) }]),
  ) as Numbers<F>
