// How a set of passes from elsewhere is read: which of its layers is which pass, and what its depth counts in.
import { MOST_GROUPS } from '../../../kernels/assembly/layout'
import { PASS_IDS } from '../../render/passes'
import { choice, flag, list, named, number, optional, text, thing, type ValueOf } from '../../declare/field'

/** Layers that one pass is added up from. */
const MOST_TERMS = 32
const layerName = () => text(1, 300)
const TERM = thing({
  layer: layerName(),
  /** Another layer that it is multiplied by: light that is kept apart from the colour of its surface. */
  times: optional(layerName()),
})

/** One distance of a grey depth: the value in the file, and how many metres that is. */
const POINT = thing({ value: number(-1e9, 1e9), metres: number(0.0001, 1e6, { unit: 'm' }) })
export const DEPTH_KINDS = ['metres', 'inverse', 'grey'] as const
const DEPTH_READING = thing({
  /** Distances; one over distances; or values of which two are known, however they run. */
  kind: choice(DEPTH_KINDS),
  /** Metres of one of its units. */
  unit: optional(number(1e-6, 1e6, { unit: 'm' })),
  near: optional(POINT),
  far: optional(POINT),
  /** Between the two it goes evenly with one over the distance. */
  inverse: optional(flag()),
  /** Measured along the ray of each pixel: degrees from the left to the right edge of the picture. */
  angle: optional(number(0.1, 179, { unit: 'deg' })),
})

export const READING = thing({
  /** By the pass: layers of the file that are added up. */
  takes: named(list(TERM, MOST_TERMS), PASS_IDS.length + MOST_GROUPS),
  /** By the pass: the Cryptomatte of the file. */
  sets: optional(named(layerName(), PASS_IDS.length)),
  /** What the parts of light do not account for of the beauty counts as direct light. */
  rest: optional(flag()),
  depth: optional(DEPTH_READING),
  /** Its motion grows upwards. */
  motionUp: optional(flag()),
})

export type PassReading = ValueOf<typeof READING>
export type ReadingTerm = ValueOf<typeof TERM>
export type DepthReading = ValueOf<typeof DEPTH_READING>
