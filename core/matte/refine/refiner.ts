// What a line declares that refines a whole matte.
import type { EntryFields, ValuesAt } from '../../declare/values'
import type { Node } from '../../plan/node'

export interface RefineInput {
  /** One float a pixel, 0..1. */
  matte: Node
  /** What it is a matte of: premultiplied colour. */
  picture: Node
  /** The same so many frames on, or back below 0, as far as it is refined by then; left out where it has no frames. */
  at?(frames: number): Pick<RefineInput, 'matte' | 'picture'>
  /** Pixels of what is worked at. */
  width: number
  height: number
}
export interface Refiner {
  id: string
  label: string
  help: string
  /** Words with {value} in their places. */
  sentence: string
  values: EntryFields
  /** The matte refined; lengths are in pixels of the size that is worked at. */
  plan(input: RefineInput, values: never): Node
}
/** Says what a refining line is, its values typed by what it declares. */
export const refiner = <const F extends EntryFields>(
  declared: Omit<Refiner, 'values' | 'plan'> & { values: F; plan(input: RefineInput, values: ValuesAt<F>): Node },
): Refiner => declared
