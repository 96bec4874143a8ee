// The values of a shot that may change over frames: where they stand in the document, and what they are called.
import { layerKindOf } from '../layer/registry'
import { eachCurve, isCurve, mappedValue, type Animatable, type Curve } from '../time/curve'
import { perSecond, type Rate } from '../time/rate'
import type { ShotDocument } from './document'
import { declared, eachPlace } from './schema/walk'

/** Place of a value in the document, word by word; as one text it is a JSON Pointer (RFC 6901). */
export type ValuePath = readonly string[]
export const pathKey = (path: ValuePath): string =>
  path.map(word => `/${word.replace(/~/g, '~0').replace(/\//g, '~1')}`).join('')

export interface AnimatedValue {
  path: string[]
  key: string
  /** What it belongs to, and what it is. */
  owner: string
  name: string
  curve: Curve
}

/** What a value is called where one reads it, and what it belongs to. */
export function valueName(document: ShotDocument, path: ValuePath): { owner: string; name: string } {
  const found = declared(document, path)
  const last = path.at(-1)!
  if (!found) return { owner: path.slice(0, -1).join(' '), name: last }
  const { field, titles } = found
  const name = field.kind === 'values' ? field.parts[Number(last)] : field.label
  return { owner: titles.join(': ') || 'shot', name: name ?? last }
}

/** Every value with keys, in the order of the document. */
export function animatedValues(document: ShotDocument): AnimatedValue[] {
  const found: AnimatedValue[] = []
  eachCurve(document, (curve, path) => {
    found.push({ path, key: pathKey(path), ...valueName(document, path), curve })
  })
  return found
}

/** Puts a value at its place. Throws when the place is not there. */
export function putValue(document: ShotDocument, path: ValuePath, value: Animatable): void {
  let at: unknown = document
  for (const word of path.slice(0, -1)) {
    at = (at as Record<string, unknown>)[word]
    if (typeof at !== 'object' || at === null) throw new Error(`The shot has no ${path.join(' ')}.`)
  }
  ;(at as Record<string, unknown>)[path.at(-1)!] = value
}

/** Another rate of the shot: seconds of drift and sway count by it. */
export function setRate(document: ShotDocument, rate: Rate): void {
  document.rate = { ...rate }
  eachCurve(document, curve => {
    if (curve.perSecond !== undefined) curve.perSecond = perSecond(rate)
  })
}

/**
 * Another size of the frame: what was placed on the picture stays where it was on it and as large, as the plate does
 * (fitted to the width, in the middle of the height).
 */
export function setFrame(document: ShotDocument, frame: { width: number; height: number }): void {
  const before = document.frame
  document.frame = { width: frame.width, height: frame.height }
  const factor = frame.width / before.width
  const down = frame.height / 2 - (before.height / 2) * factor
  if (factor === 1 && down === 0) return
  // What is said of a layer's own picture stays
  const own = Object.values(document.build.layers).flatMap(layer => {
    if (!layerKindOf(layer.kind).cutFirst || !('matte' in layer) || !layer.matte) return []
    const { matte } = layer
    delete layer.matte
    return [() => Object.assign(layer, { matte })]
  })
  eachPlace(document, ({ field, value, put }) => {
    if (field.kind === 'numbers' && field.pixels) {
      const [x, y, ...rest] = value as [number, number]
      put([x * factor, y * factor + down, ...rest])
    }
    if (field.kind !== 'number' || !field.pixels) return
    const mapped = mappedValue(value as Animatable, factor, field.pixels === 'down' ? down : 0)
    put(typeof mapped === 'number' ? Math.min(field.high, Math.max(field.low, mapped)) : mapped)
  })
  for (const put of own) put()
}

/** Lowest and highest value of curves over frames, for a view of them; never empty. */
export function valueRange(
  curves: readonly Animatable[],
  first: number,
  last: number,
  valueOf: (curve: Animatable, frame: number) => number,
): [number, number] {
  let low = Infinity
  let high = -Infinity
  const step = Math.max(0.25, (last - first) / 400)
  for (const curve of curves) {
    for (let frame = first; frame <= last; frame += step) {
      const value = valueOf(curve, frame)
      low = Math.min(low, value)
      high = Math.max(high, value)
    }
    if (isCurve(curve))
      for (const key of curve.keys) {
        low = Math.min(low, key.value)
        high = Math.max(high, key.value)
      }
  }
  if (!(low <= high)) return [0, 1]
  return high - low < 1e-6 ? [low - 0.5, high + 0.5] : [low, high]
}
