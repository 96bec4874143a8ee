// What a value field needs to know of a number, from what the document declares of it (core/shot/schema).
import type { NumberField, ValuesField } from '../../core/shot/schema/field'

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
}
export const numberProps = ({
  label = '',
  help = '',
  low,
  high,
  step,
  digits,
  unit,
  neutral,
}: NumberField): FieldProps => ({ label: capital(label), help, low, high, step, digits, unit, neutral })
/** Of one of several numbers in a row. */
export const partProps = ({ parts, hand, step, neutral }: ValuesField, index: number): FieldProps => ({
  label: capital(parts[index]!),
  help: '',
  low: hand[0],
  high: hand[1],
  step,
  digits: 2,
  unit: '',
  neutral,
})
/** All numbers of a thing by their names. */
export const propsOf = <F extends object>(
  fields: F,
): { [K in keyof F]: F[K] extends { kind: 'number' } ? FieldProps : never } =>
  Object.fromEntries(
    Object.entries(fields).flatMap(([key, field]) =>
      (field as NumberField).kind === 'number' ? [[key, numberProps(field as NumberField)]] : [],
    ),
  ) as never
