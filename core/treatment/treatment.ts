// What a treatment declares. Interface, validation, documents and help are made from it.
import type { ArgumentsOf, Kernel, POINT } from '../../kernels/record'

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
  /** The kernel that does it, pixel by pixel, and what that is given. */
  point: PointWork
}

/** A kernel of its own values, with strength and matte. */
export interface PointWork {
  kernel: Kernel<typeof POINT>
  /** Colour is divided by alpha for it. */
  straight: boolean
  given(values: Record<string, number>, context: TreatmentContext): Record<string, unknown>
}
/** `pointWork(Gain, { given: ({ stops }) => ({ gain: [2 ** stops!, 2 ** stops!, 2 ** stops!, 1] }) })` */
export const pointWork = <K extends Kernel<typeof POINT>>(
  kernel: K,
  {
    straight = false,
    given,
  }: {
    straight?: boolean
    given(
      values: Record<string, number>,
      context: TreatmentContext,
    ): Omit<ArgumentsOf<K>, keyof ArgumentsOf<Kernel<typeof POINT>>>
  },
): PointWork => ({ kernel, straight, given })

export const isNeutral = (treatment: Treatment, values: Record<string, number>): boolean =>
  treatment.parameters.every(parameter => values[parameter.id] === parameter.neutral)
