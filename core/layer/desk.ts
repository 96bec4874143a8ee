// The desk: how much of each part of a render's light each of its objects shows, how each is graded, and how bright its
// groups of light are.
import { named, optional, thing, titled, value, type ValueOf } from '../declare/field'
import { LIGHT_PARTS, type LightPart } from '../render/passdefinition'
import type { Animatable } from '../time/curve'
import { ownOf } from '../declare/own'
import { GRADE, gradeGain } from '../treatment/deskGrade'

const gain = (label: string): ReturnType<typeof value> => value(0, 100, { label, neutral: 1 })
const PARTS = {
  diffuse_direct: gain('direct light'),
  diffuse_indirect: gain('indirect light'),
  reflection: gain('reflection'),
  refraction: gain('refraction'),
  emission: gain('emission'),
  environment: gain('environment'),
  occlusion: gain('occlusion'),
}
/** The rows: gains of the parts of the light, then the grade. */
const DESK_FIELDS = { ...PARTS, ...GRADE }
export type DeskRow = keyof typeof DESK_FIELDS
export const DESK_ROWS = Object.keys(DESK_FIELDS) as DeskRow[]
const DESK_NEUTRAL = Object.fromEntries(DESK_ROWS.map(row => [row, DESK_FIELDS[row].neutral!])) as Record<
  DeskRow,
  number
>
type OptionalFields = { [R in DeskRow]: ReturnType<typeof value> & { optional: true } }
const ROWS = Object.fromEntries(
  Object.entries(DESK_FIELDS).map(([row, field]) => [row, optional(field)]),
) as OptionalFields
/** How bright a group of light is. */
export const LIGHT_GAIN = value(0, 64, { neutral: 1 })
const LIGHTS = optional(titled('lights', named(LIGHT_GAIN, 65535)))
/** One column of the desk. Absent values are neutral; lights: gains of groups of light, on this thing alone. */
export const DESK_COLUMN = thing({ ...ROWS, lights: LIGHTS })
export const DESK = titled(
  'Desk',
  thing({
    everything: thing(ROWS),
    objects: named(DESK_COLUMN, 65535, 'object'),
    /** Gains of groups of light. */
    lights: LIGHTS,
  }),
)
export type DeskColumn = ValueOf<typeof DESK_COLUMN>
export type DeskSettings = ValueOf<typeof DESK>

/** The desk at a frame. */
export interface DeskAt {
  /** Of an object; of everything where no name is given. */
  number: (row: DeskRow, name?: string) => number
  /** Of a group of light, everywhere or, where it is named, on an object alone. */
  light: (group: string, name?: string) => number
  /** Objects of which something is said. */
  said: ReadonlySet<string>
}

/** What is said, at a frame; now: what a value is then. */
export function deskAt(desk: DeskSettings | undefined, now: (value: Animatable) => number): DeskAt {
  const said = new Set(Object.keys(desk?.objects ?? {}))
  const columnOf = (name: string): DeskColumn | undefined => ownOf(desk?.objects, name)
  return {
    number: (row, name) => now((name === undefined ? desk?.everything : columnOf(name))?.[row] ?? DESK_NEUTRAL[row]),
    light: (group, name) => now(ownOf((name === undefined ? desk : columnOf(name))?.lights, group) ?? 1),
    said,
  }
}

/** Numbers of what has no object, then of each object, in a row; told: what tells the table from others, being less. */
export interface OfEach {
  table: Float32Array
  told: unknown
}
/** rowOf: as many numbers of each. Most objects have those of nobody: nothing is said of them. */
function ofEach(names: readonly string[], said: ReadonlySet<string>, rowOf: (name?: string) => number[]): OfEach {
  const nobody = rowOf()
  const table = new Float32Array((names.length + 1) * nobody.length)
  const told: [number, number[]][] = [[0, nobody]]
  table.set(nobody)
  names.forEach((name, i) => {
    const own = said.has(name) ? rowOf(name) : undefined
    if (own) told.push([i + 1, own])
    table.set(own ?? nobody, (i + 1) * nobody.length)
  })
  return { table, told }
}

/**
 * What the kernel Desk is told of each object: DESK_ROW bytes. occlusion: how much of it is multiplied in. only: one part of
 * the light; all others are left out.
 */
export function deskGains(
  { number, said }: DeskAt,
  occlusion: number,
  names: readonly string[],
  only?: LightPart,
): OfEach {
  return ofEach(names, said, name => {
    const both = (row: DeskRow): number => number(row) * (name === undefined ? 1 : number(row, name))
    const sum = (row: DeskRow): number => number(row) + (name === undefined ? 0 : number(row, name))
    return [
      ...LIGHT_PARTS.map(part => (only && only !== part ? 0 : both(part))),
      occlusion * both('occlusion'),
      both('contrast'),
      ...gradeGain(sum('exposure'), sum('warmth'), sum('tint')),
      both('saturation'),
    ]
  })
}

/** Gains of a group of light on each object; undefined where nothing is said of any. */
export function lightGains({ light, said }: DeskAt, group: string, names: readonly string[]): OfEach | undefined {
  const found = ofEach(names, said, name => [name === undefined ? 1 : light(group, name)])
  return found.table.some(gain => gain !== 1) ? found : undefined
}
