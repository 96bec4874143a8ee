// The desk: how much of each part of a render's light each of its objects shows, and how bright its groups of light are.
import { named, optional, thing, titled, value, type ValueOf } from '../declare/field'
import { LIGHT_PARTS, type LightPart } from '../render/passdefinition'
import { DESK_ROW } from '../../kernels/assembly/layout'

const gain = (label: string): ReturnType<typeof value> => value(0, 100, { label, neutral: 1 })
/** One column of the desk: gains that multiply, stops that add. Absent values are neutral. */
export const DESK_COLUMN = thing({
  diffuse_direct: optional(gain('direct light')),
  diffuse_indirect: optional(gain('indirect light')),
  reflection: optional(gain('reflection')),
  refraction: optional(gain('refraction')),
  emission: optional(gain('emission')),
  environment: optional(gain('environment')),
  occlusion: optional(gain('occlusion')),
  exposure: optional(value(-10, 10, { label: 'exposure', unit: 'stops', neutral: 0 })),
  saturation: optional(gain('saturation')),
})
export type DeskRow = keyof (typeof DESK_COLUMN)['fields']
export const DESK_ROWS = Object.keys(DESK_COLUMN.fields) as DeskRow[]
export const DESK_NEUTRAL = Object.fromEntries(DESK_ROWS.map(row => [row, DESK_COLUMN.fields[row].neutral!])) as Record<
  DeskRow,
  number
>
export const DESK = titled(
  'Desk',
  thing({
    everything: DESK_COLUMN,
    objects: named(DESK_COLUMN, 65535, 'object'),
    /** Gains of groups of light. */
    lights: optional(titled('lights', named(value(0, 64, { neutral: 1 }), 65535))),
  }),
)
export type DeskColumn = ValueOf<typeof DESK_COLUMN>
export type DeskSettings = ValueOf<typeof DESK>

/** The desk at a frame. */
export interface DeskAt {
  /** Of an object; of everything where no name is given. */
  gain: (row: DeskRow, name?: string) => number
  light: (name: string) => number
}

/**
 * Gains of what has no object, then of each object: rows of DESK_ROW bytes. occlusion: how much of it is multiplied in. only:
 * one part of the light; all others are left out.
 */
export function deskGains(
  { gain }: DeskAt,
  occlusion: number,
  names: readonly string[],
  only?: LightPart,
): Float32Array {
  const stride = DESK_ROW / 4
  const out = new Float32Array((names.length + 1) * stride)
  ;[undefined, ...names].forEach((name, index) => {
    DESK_ROWS.forEach((row, at) => {
      const isLeftOut = only && only !== row && (LIGHT_PARTS as readonly string[]).includes(row)
      const whole = isLeftOut ? 0 : gain(row)
      const part = name === undefined ? DESK_NEUTRAL[row] : gain(row, name)
      out[index * stride + at] =
        row === 'occlusion' ? occlusion * whole * part : row === 'exposure' ? 2 ** (whole + part) : whole * part
    })
  })
  return out
}
