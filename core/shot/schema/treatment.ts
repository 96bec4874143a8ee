// A line of a recipe, and where it works.
import { choice, flag, optional, orNull, thing, value, valuesOf, type Row, type ValueOf } from '../../declare/field'
import { treatmentOf, TREATMENTS } from '../../treatment/registry'
import { optionals, SLIP } from './matte'
import { BLOB_REFERENCE } from './picture'

export const TREATMENT = thing(
  {
    kind: choice(TREATMENTS.map(({ id }) => id)),
    on: flag(),
    strength: value(0, 1, { label: 'strength', step: 0.004, neutral: 1 }),
    matte: orNull(SLIP),
    /** Of what is made of one. */
    table: optional(BLOB_REFERENCE),
    values: valuesOf(({ kind }: { kind: string }) => optionals(treatmentOf(kind).values)),
  },
  { title: ({ kind }) => treatmentOf(kind).label },
)

export type TreatmentSettings = ValueOf<typeof TREATMENT> & Row
