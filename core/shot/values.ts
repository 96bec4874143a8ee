// The values of a shot that may change over frames: where they stand in the document, and what they are called.
import { eachCurve, isCurve, mappedValue, type Animatable, type Curve } from '../time/curve'
import { perSecond, type Rate } from '../time/rate'
import { treatmentOf } from '../treatment/registry'
import type { ShotDocument, TreatmentSettings } from './document'

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

const FIELDS: Record<string, string> = {
  focalLength: 'focal length',
  sensorWidth: 'sensor width',
  x: 'across',
  y: 'up',
  z: 'along',
  heading: 'heading',
  pitch: 'pitch',
  bank: 'bank',
  azimuth: 'direction',
  elevation: 'elevation',
  kelvin: 'colour',
  tint: 'tint',
  stops: 'strength',
  amount: 'strength',
  diameter: 'apparent size',
  width: 'width',
  height: 'height',
  length: 'length',
  radius: 'radius',
  cone: 'cone',
  softness: 'softness',
  distance: 'distance',
  opacity: 'opacity',
  shadow: 'shadow',
  occlusion: 'occlusion',
  scale: 'scale',
  rotation: 'turn',
  turn: 'turn',
  retime: 'frame of the clip',
  strength: 'strength',
  diffuse_direct: 'direct light',
  diffuse_indirect: 'indirect light',
  shadowDensity: 'shadow density',
  size: 'size',
  shiftX: 'shift across',
  shiftY: 'shift up',
  depth: 'depth',
  roughness: 'roughness',
  k1: 'first term',
  k2: 'second term',
}
const TRIPLES: Record<string, readonly string[]> = {
  position: ['across', 'up', 'along'],
  rotation: ['heading', 'tilt', 'bank'],
  target: ['target across', 'target up', 'target along'],
  shadowColour: ['shadow red', 'shadow green', 'shadow blue'],
}
const fieldName = (words: readonly string[]): string => {
  const last = words.at(-1)!
  const before = words.at(-2)
  return before !== undefined && TRIPLES[before] ? (TRIPLES[before][Number(last)] ?? last) : (FIELDS[last] ?? last)
}

function treated(
  list: readonly TreatmentSettings[] | undefined,
  rest: readonly string[],
): { owner: string; name: string } | undefined {
  const settings = list?.[Number(rest[0])]
  if (!settings) return undefined
  const treatment = treatmentOf(settings.kind)
  return {
    owner: treatment.label,
    name:
      rest[1] === 'values'
        ? (treatment.parameters.find(parameter => parameter.id === rest[2])?.label ?? rest[2]!)
        : 'strength',
  }
}

/** What a value is called where one reads it. */
export function valueName(document: ShotDocument, path: ValuePath): { owner: string; name: string } {
  const [part, second, third, fourth] = path
  const rest = path.slice(3)
  if (part === 'finish') return treated(document.finish, path.slice(1)) ?? { owner: 'Finish', name: fieldName(path) }
  if (part === 'build' && second === 'layers') {
    const layer = document.build.layers[Number(third)]
    const found = fourth === 'treatments' ? treated(layer?.treatments, path.slice(4)) : undefined
    return found
      ? { owner: `${layer!.name}: ${found.owner}`, name: found.name }
      : { owner: layer?.name ?? 'layer', name: fieldName(rest) }
  }
  if (part === 'build' && second === 'desk' && third === 'lights')
    return { owner: 'Desk: lights', name: String(fourth) }
  if (part === 'build' && second === 'desk')
    return { owner: third === 'everything' ? 'Desk' : `Desk: ${fourth}`, name: fieldName(path) }
  if (part === 'scene' && second === 'camera') return { owner: 'Camera', name: fieldName(path) }
  if (part === 'scene' && second === 'lights')
    return { owner: document.scene.lights[Number(third)]?.name ?? 'light', name: fieldName(rest) }
  if (part === 'scene' && second === 'objects') return { owner: third!, name: fieldName(path) }
  if (part === 'scene' && second === 'environment') return { owner: 'Environment', name: fieldName(path) }
  if (part === 'scene' && second === 'added')
    return { owner: document.scene.added?.[Number(third)]?.name ?? 'stand-in', name: fieldName(rest) }
  if (part === 'scene' && second === 'prints')
    return { owner: document.scene.prints?.[Number(third)]?.name ?? 'picture', name: fieldName(rest) }
  if (part === 'lens') return { owner: 'Lens', name: fieldName(path) }
  if (part === 'plate') return { owner: 'Plate', name: fieldName(path) }
  return { owner: path.slice(0, -1).join(' '), name: fieldName(path) }
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
  const placed = ([x, y]: [number, number]): [number, number] => [x * factor, y * factor + down]
  const {
    match,
    scene: { objects },
  } = document
  for (const layer of document.build.layers) {
    if (layer.kind === 'picture') {
      layer.x = mappedValue(layer.x, factor)
      layer.y = mappedValue(layer.y, factor, down)
      layer.scale = mappedValue(layer.scale, factor)
    }
    scaleTreatments(layer.treatments, factor)
  }
  scaleTreatments(document.finish, factor)
  for (const { pins } of Object.values(objects)) for (const pin of pins ?? []) pin.pixel = placed(pin.pixel)
  if (!match) return
  for (const line of match.lines) Object.assign(line, { from: placed(line.from), to: placed(line.to) })
  for (const point of match.points ?? []) point.pixel = placed(point.pixel)
  for (const curve of match.curves ?? []) curve.points = curve.points.map(placed)
}

function scaleTreatments(list: TreatmentSettings[], factor: number): void {
  for (const { kind, values } of list)
    for (const { id, unit, low, high } of treatmentOf(kind).parameters) {
      const value = values[id]
      if (unit !== 'px' || value === undefined) continue
      values[id] =
        typeof value === 'number' ? Math.min(high, Math.max(low, value * factor)) : mappedValue(value, factor)
    }
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
