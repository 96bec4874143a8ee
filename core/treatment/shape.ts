// What treatments of shape share: the values that all have, what is beyond the edge, and how they are laid.
import { choice } from '../declare/field'
import type { EntryFields, ValuesAt } from '../declare/values'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { pointNode, whole } from '../plan/pointNode'
import { FILTERS, type Filter, type Shaping } from '../plan/picture'
import { reshaped } from '../plan/shaped'
import type { Node } from '../plan/node'
import { splat } from '../../kernels/record'
import { treatment, type Treatment, type TreatmentInput } from './treatment'

export const BEYOND = ['nothing', 'a mirror', 'its edge', 'itself again'] as const
export const SHAPE_VALUES = {
  filter: choice(FILTERS, {
    label: 'filter',
    help: 'Between pixels: sharp (Lanczos, three lobes), soft (Mitchell) or straight.',
  }),
  beyond: choice(BEYOND, {
    label: 'beyond the edge',
    help: 'What is seen where the picture has ended: nothing, it in a mirror, its last pixels, or it again.',
  }),
}
/** The end of their sentences. */
export const SHAPE_SENTENCE = '; {filter}, beyond the edge {beyond}'

const Mirror = point('ShapeMirror', { width: splat, height: splat }, ({ colour, values }) => {
  const fold = (place: typeof colour.red, side: typeof colour.red): typeof colour.red => {
    const turns = place.over(side.times(2))
    const rest = turns.minus(turns.floor()).times(side).times(2)
    return rest.atMost(side.times(2).minus(rest))
  }
  return new Colour(fold(colour.red, values.width), fold(colour.green, values.height), colour.blue)
})
const Repeat = point('ShapeRepeat', { width: splat, height: splat }, ({ colour, values }) => {
  const rest = (place: typeof colour.red, side: typeof colour.red): typeof colour.red =>
    place.minus(place.over(side).floor().times(side))
  return new Colour(rest(colour.red, values.width), rest(colour.green, values.height), colour.blue)
})
const Held = point(
  'ShapeHeld',
  { width: splat, height: splat },
  ({ colour, values }) =>
    new Colour(colour.red.atLeast(0).atMost(values.width), colour.green.atLeast(0).atMost(values.height), colour.blue),
)

/** Places beyond the edge brought to what is seen there. */
export function placesWithin(
  places: Node,
  beyond: (typeof BEYOND)[number],
  { width, height }: { width: number; height: number },
): Node {
  if (beyond === 'nothing') return places
  const kernel = beyond === 'a mirror' ? Mirror : beyond === 'itself again' ? Repeat : Held
  return pointNode(kernel, whole(places), { width, height })
}

type Shape<F extends EntryFields> = Omit<Treatment, 'values' | 'plan' | 'idle' | 'shape' | 'group' | 'beside'> & {
  values: F
  group?: Treatment['group']
  idle?(values: ValuesAt<F>): boolean
  /** Places of the result changed to places of what comes. */
  places(input: TreatmentInput, values: ValuesAt<F>, places: Node): Node
  /** It reads pictures at the pixel, too. */
  impure?: true | ((values: ValuesAt<F>) => boolean)
  /** Of what has no such value. */
  filter?: Filter
  beyond?: (typeof BEYOND)[number]
}

/** Declares one. */
export function shape<const F extends EntryFields>({
  places,
  impure,
  filter,
  beyond,
  ...declared
}: Shape<F>): Treatment {
  const shaping = (input: TreatmentInput, values: ValuesAt<F>): Shaping => {
    const own = values as { filter?: Filter; beyond?: (typeof BEYOND)[number] }
    const outside = own.beyond ?? beyond ?? 'nothing'
    return {
      alter: before => placesWithin(places(input, values, before), outside, input),
      pure: typeof impure === 'function' ? !impure(values) : !impure,
      filter: own.filter ?? filter ?? 'sharp',
      goesOn: outside !== 'nothing',
    }
  }
  return treatment({
    group: 'Shape',
    ...declared,
    beside: true,
    shape: shaping as Treatment['shape'],
    plan: (input, values) => reshaped(input, shaping(input, values as ValuesAt<F>), input).colour,
  } as Parameters<typeof treatment>[0])
}
