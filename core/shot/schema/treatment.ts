// A line of a recipe, and where it works.
import { treatmentOf, TREATMENTS } from '../../treatment/registry'
import {
  choice,
  flag,
  list,
  optional,
  orNull,
  text,
  thing,
  value,
  valuesOf,
  type Fields,
  type Row,
  type ValueOf,
} from './field'

export const MATTE = thing({
  /** Of objects or materials. */
  names: list(text(0, 300, { refers: 'object', when: ({ of }: { of: string }) => of === 'objects' }), 65535),
  of: choice(['objects', 'materials']),
  /** As they stand where it says nothing. */
  seen: optional(choice(['straight', 'through', 'mirrored'])),
  invert: flag(),
})

/** The values of each treatment, from what it declares itself. */
const VALUES = new Map<string, Fields>(
  TREATMENTS.map(({ id, parameters }) => [
    id,
    Object.fromEntries(
      parameters.map(({ id, low, high, unit, ...about }) => [
        id,
        optional(value(low, high, { ...about, unit, pixels: unit === 'px' ? 'size' : undefined })),
      ]),
    ),
  ]),
)
export const TREATMENT = thing(
  {
    kind: choice(TREATMENTS.map(({ id }) => id)),
    on: flag(),
    strength: value(0, 1, { label: 'strength', step: 0.004, neutral: 1 }),
    matte: orNull(MATTE),
    values: valuesOf(({ kind }: { kind: string }) => VALUES.get(kind)!),
  },
  { title: ({ kind }) => treatmentOf(kind).label },
)

export type MatteSettings = ValueOf<typeof MATTE>
export type TreatmentSettings = ValueOf<typeof TREATMENT> & Row
