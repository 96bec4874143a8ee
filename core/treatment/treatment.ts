// What a treatment declares. Interface, validation, documents and help are made from it.
import type { Argument } from '../engine/pool'

export interface Parameter {
  id: string
  label: string
  help: string
  unit: '' | 'stops' | '%' | 'px'
  low: number
  high: number
  /** What a drag of one pixel adds. */
  step: number
  neutral: number
  digits: number
}

export interface TreatmentContext {
  width: number
  height: number
  /** Size of the full frame over the size worked at: 1, 2 or 4. */
  shrink: number
}

export interface Treatment {
  id: string
  label: string
  help: string
  /** The sentence of the recipe: words with {parameter} in their places. */
  sentence: string
  parameters: readonly Parameter[]
  /** Number of the kernel that does it. */
  kernel: number
  /** Colour is divided by alpha for it. */
  unpremultiplied: boolean
  /** Words 8 onwards of the kernel. */
  words(values: Record<string, number>, context: TreatmentContext): Argument[]
}

export const isNeutral = (treatment: Treatment, values: Record<string, number>): boolean =>
  treatment.parameters.every(parameter => values[parameter.id] === parameter.neutral)
