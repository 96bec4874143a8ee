// A line of a recipe, and where it works.
import {
  choice,
  flag,
  name,
  optional,
  orNull,
  rows,
  thing,
  value,
  valuesOf,
  type Row,
  type ValueOf,
} from '../../declare/field'
import { treatmentOf, TREATMENTS } from '../../treatment/registry'
import { optionals, SLIP } from './matte'
import { BLOB_REFERENCE } from './picture'

const kinds = (lined: boolean): string[] => TREATMENTS.filter(one => lined || !one.lined).map(({ id }) => id)
const FIELDS = {
  on: flag(),
  strength: value(0, 1, { label: 'strength', step: 0.004, neutral: 1 }),
  matte: orNull(SLIP),
  /** Of what is made of one. */
  table: optional(BLOB_REFERENCE),
  values: valuesOf(({ kind }: { kind: string }) => optionals(treatmentOf(kind).values)),
}
const title = ({ kind }: { kind: string }): string => treatmentOf(kind).label
const LINE = thing({ kind: choice(kinds(false)), ...FIELDS }, { title })
/** Lines that are laid as one, at most. */
const MOST_LINES = 60
export const TREATMENT = thing(
  {
    kind: choice(kinds(true)),
    ...FIELDS,
    /** Of a look: what it is called, and its lines. */
    name: optional(name()),
    lines: optional(rows(LINE, MOST_LINES)),
  },
  { title: line => line.name ?? title(line) },
)

export type TreatmentSettings = ValueOf<typeof TREATMENT> & Row
