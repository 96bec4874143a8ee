// Treatments whose result at a pixel depends on that pixel alone, each said by its formula. Several that follow each
// other are one: every pixel is read once, goes through all of them, and is written once.
import { POINT, type Argument, type Kernel } from '../../kernels/record'
import { Colour, type Term } from './term'

/** What a formula sees of a pixel. */
export interface Pixel<A> {
  colour: Colour
  alpha: Term
  /** Middle of the pixel from the top left corner of the frame, in pixels. */
  x: Term
  y: Term
  values: {
    [N in keyof A as A[N] extends { kind: 'splat' | 'shade' } ? N : never]: A[N] extends { kind: 'shade' }
      ? Colour
      : Term
  }
  /** An entry of a table by its number, a whole one that lies within it. */
  tables: { [N in keyof A as A[N] extends { kind: 'pointer' } ? N : never]: (index: Term) => Term }
  /** What a picture of one float a pixel holds there. */
  singles: { [N in keyof A as A[N] extends { kind: 'raster'; pixel: 'single' } ? N : never]: Term }
  /** What another picture of colour holds there, premultiplied. */
  colours: {
    [N in keyof A as A[N] extends { kind: 'raster'; pixel: 'colour' } ? N : never]: { colour: Colour; alpha: Term }
  }
}
export type Formula<A> = (pixel: Pixel<A>) => Colour

/** A kernel that is said by a formula. */
export interface PointKernel<A extends Record<string, Argument> = Record<string, Argument>> extends Kernel<A> {
  traversal: 'point'
  formula: Formula<never>
}

/**
 * Declares one. `point('Gain', { gain: shade }, ({ colour, values }) => colour.times(values.gain))`. Beside its own
 * values it is given source, out, matte, strength and straight (POINT).
 */
export const point = <const A extends Record<string, Argument>>(
  name: string,
  values: A,
  formula: Formula<A>,
): PointKernel<typeof POINT & A> => ({ name, traversal: 'point', arguments: { ...POINT, ...values }, formula })

export const isPointKernel = (kernel: Kernel): kernel is PointKernel => kernel.traversal === 'point'

/** What of a call decides which code it runs; its numbers do not. */
export interface PointForm {
  kernel: PointKernel
  matte: boolean
  /** Strength is 1 everywhere. */
  full: boolean
  straight: boolean
}
export const formOf = (kernel: PointKernel, given: Readonly<Record<string, unknown>>, matte: boolean): PointForm => ({
  kernel,
  matte,
  full: given.strength === 1,
  straight: given.straight === 1,
})
