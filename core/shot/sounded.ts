// What of a shot has a beginning and an end along the view: fog between two distances, the thickness of smoke, what a line
// tints, what a slip brackets. Each is seen on the soundings, and moved there.
import type { NumberField } from '../declare/field'
import { counts, valuesAt, within, type EntryFields } from '../declare/values'
import { layerKindOf } from '../layer/registry'
import { matteKindOf } from '../matte/registry'
import { valueAt, withValue, type Animatable } from '../time/curve'
import { treatmentOf } from '../treatment/registry'
import type { EntryValue } from '../declare/field'
import type { Layer, ShotDocument } from './document'
import { sightOf } from './scene'
import { recipeOf, termIn } from './slip'
import { standsAt } from './tree'

export interface SoundedEnd {
  /** The value that it is. */
  name: string
  label: string
  metres: number
}
/** From its first end to its last, or from its only one on. */
export interface Sounded {
  id: string
  label: string
  ends: SoundedEnd[]
}
type Held = Record<string, EntryValue>
interface Found {
  label: string
  fields: EntryFields
  held: Held
  metres: readonly string[]
  /** The layer that stands in the middle of what it is thick by. */
  thick?: { layer: Layer; by: string }
}

/** What of that id, layer, line or line of a slip, there is along the view. */
function find(document: ShotDocument, id: string): Found | undefined {
  const { layers } = document.build
  if (Object.hasOwn(layers, id)) {
    const layer = layers[id]!
    const { label, values: fields, metres = [], thickness } = layerKindOf(layer.kind)
    const thick = thickness === undefined ? undefined : { layer, by: thickness }
    if (!layer.on || (!metres.length && !thick)) return undefined
    return { label: layer.name || label, fields, held: layer as unknown as Held, metres, ...(thick && { thick }) }
  }
  const line = recipeOf(document, id)?.[id]
  if (line) {
    const { label, values: fields, metres } = treatmentOf(line.kind)
    return line.on && metres ? { label: line.name ?? label, fields, held: line.values, metres } : undefined
  }
  const term = termIn(document, id)
  if (!term?.on || !('values' in term)) return undefined
  const { label, values: fields, metres } = matteKindOf(term.kind)
  return metres && { label, fields, held: term.values, metres }
}

/** What a layer, a line or a line of a slip has along the view at a frame; undefined where that is nothing. */
export function soundedAt(document: ShotDocument, frame: number, id: string): Sounded | undefined {
  const found = find(document, id)
  if (!found) return undefined
  const { label, fields, held, metres, thick } = found
  const now = valuesAt(fields, held, frame, valueAt) as Readonly<Record<string, unknown>>
  if (thick) {
    const middle = standsAt(thick.layer, sightOf(document, frame))
    if (typeof middle !== 'number') return undefined
    const half = (now[thick.by] as number) / 2
    return {
      ...{ id, label },
      ends: [
        { name: thick.by, label: 'nearest part', metres: Math.max(0, middle - half) },
        { name: thick.by, label: 'farthest part', metres: middle + half },
      ],
    }
  }
  const ends = metres
    .filter(name => counts(fields, name, held) && (held[name] !== undefined || !fields[name]!.optional))
    .map(name => ({ name, label: fields[name]!.label ?? name, metres: now[name] as number }))
  return ends.length ? { id, label, ends } : undefined
}

/** Ends that meet stay so far apart: what is kept has four figures. */
const APART = 1.001

/** Brings one of its ends to so many metres from the camera. end: its place among the ends. */
export function bringEnd(document: ShotDocument, frame: number, id: string, end: number, metres: number): void {
  const found = find(document, id)
  const sounded = soundedAt(document, frame, id)
  const name = sounded?.ends[end]?.name
  if (!found || !sounded || name === undefined) return
  const { fields, held, thick } = found
  const { low, high } = fields[name] as NumberField
  const put = (value: number): void => {
    held[name] = withValue((held[name] ?? 0) as Animatable, frame, Number(within(value, low, high).toPrecision(4)))
  }
  if (thick) {
    const middle = standsAt(thick.layer, sightOf(document, frame)) as number
    // The middle stays: both sides come and go together; across it there is nothing left
    put(Math.max(0, end ? metres - middle : middle - metres) * 2)
    return
  }
  // Ends do not pass each other
  const other = sounded.ends[1 - end]
  put(other ? (end ? Math.max(metres, other.metres * APART) : Math.min(metres, other.metres / APART)) : metres)
}
