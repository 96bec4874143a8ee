// What stands at the crossings of the desk: things of a render against its light, and layers against their grade.
import { DESK_COLUMN, DESK_ROWS, LIGHT_GAIN, type DeskColumn, type DeskRow } from '../layer/desk'
import type { NumberField } from '../declare/field'
import { GRADE } from '../treatment/deskGrade'
import type { Animatable } from '../time/curve'
import { newTreatment, type Layer, type RenderLayer, type ShotDocument } from './document'
import { ownOf } from '../declare/own'
import { addRow, inOrder } from './rows'
import { LAID_FIELDS } from './schema/layer'
import type { TreatmentSettings } from './schema/treatment'

/** All of a render together, one thing of it, or a layer. */
export type DeskPlace = { kind: 'everything' } | { kind: 'thing'; name: string } | { kind: 'layer'; id: string }
/** light: of a group of lights, by its name. */
export type DeskLine = { kind: 'row'; row: DeskRow } | { kind: 'light'; group: string } | { kind: 'opacity' }

type GradeRow = keyof typeof GRADE
const isGrade = (row: DeskRow): row is DeskRow & GradeRow => Object.hasOwn(GRADE, row)

/** What a number of that line may be. */
export function fieldOfLine(line: DeskLine): NumberField {
  if (line.kind === 'light') return { ...LIGHT_GAIN, label: `light of ${line.group}` }
  return line.kind === 'opacity' ? LAID_FIELDS.opacity : DESK_COLUMN.fields[line.row]
}

/** A render's layer of a shot. Throws where there is none of that id. */
function renderCalled({ build: { layers } }: ShotDocument, id: string): RenderLayer {
  const layer = ownOf(layers, id)
  if (layer?.kind !== 'render') throw new Error('That layer is no render.')
  return layer
}
const layerCalled = ({ build: { layers } }: ShotDocument, id: string): Layer | undefined => ownOf(layers, id)

/** The line of a layer that the desk's grade is: the first that grades all of it, at full strength. */
export const gradeOf = (layer: Layer): TreatmentSettings | undefined =>
  inOrder(layer.treatments).find(
    ({ kind, matte, strength, on }) => kind === 'desk_grade' && !matte && strength === 1 && on,
  )

/** Whether there is a number at a crossing. */
export function hasNumber(document: ShotDocument, place: DeskPlace, line: DeskLine): boolean {
  if (place.kind === 'layer') {
    const layer = layerCalled(document, place.id)
    return !!layer && (line.kind === 'opacity' ? 'opacity' in layer : line.kind === 'row' && isGrade(line.row))
  }
  // What comes of the environment has no thing that it is of
  return line.kind !== 'opacity' && !(place.kind === 'thing' && line.kind === 'row' && line.row === 'environment')
}

/** The number at a crossing, at its neutral where nothing was said; undefined where there is none. */
export function deskNumber(
  document: ShotDocument,
  render: string,
  place: DeskPlace,
  line: DeskLine,
): Animatable | undefined {
  if (!hasNumber(document, place, line)) return undefined
  const said = saidNumber(document, render, place, line)
  return said ?? fieldOfLine(line).neutral!
}
function saidNumber(document: ShotDocument, render: string, place: DeskPlace, line: DeskLine): Animatable | undefined {
  if (place.kind === 'layer') {
    const layer = layerCalled(document, place.id)!
    if (line.kind === 'opacity') return (layer as { opacity?: Animatable }).opacity
    return line.kind === 'row' ? (gradeOf(layer)?.values[line.row] as Animatable | undefined) : undefined
  }
  const { desk } = renderCalled(document, render)
  if (line.kind === 'opacity') return undefined
  if (place.kind === 'everything')
    return line.kind === 'light' ? ownOf(desk.lights, line.group) : desk.everything[line.row]
  const column = ownOf(desk.objects, place.name)
  return line.kind === 'light' ? ownOf(column?.lights, line.group) : column?.[line.row]
}

/** Sets the number at a crossing; at its neutral nothing is kept of it. What is no number of that place is left alone. */
export function setDeskNumber(
  document: ShotDocument,
  render: string,
  place: DeskPlace,
  line: DeskLine,
  number: Animatable,
): void {
  if (!hasNumber(document, place, line)) return
  if (place.kind === 'layer') setLayerNumber(layerCalled(document, place.id)!, line, number)
  else if (line.kind !== 'opacity') setThingNumber(renderCalled(document, render), place, line, number)
}
function setLayerNumber(layer: Layer, line: DeskLine, number: Animatable): void {
  if (line.kind === 'opacity') (layer as { opacity: Animatable }).opacity = number
  else if (line.kind === 'row') {
    const neutral = Object.fromEntries(Object.entries(GRADE).map(([row, field]) => [row, field.neutral!]))
    // Nearest to the light of the layer, as a thing's own grade is
    const grade = gradeOf(layer) ?? addRow(layer.treatments, newTreatment('desk_grade', { ...neutral }), null)
    grade.values[line.row] = number
    if (Object.entries(neutral).every(([row, still]) => grade.values[row] === still)) delete layer.treatments[grade.id]
  }
}
function setThingNumber(
  { desk }: RenderLayer,
  place: DeskPlace & { kind: 'everything' | 'thing' },
  line: DeskLine & { kind: 'row' | 'light' },
  number: Animatable,
): void {
  const { everything, objects } = desk
  if (place.kind === 'thing' && !Object.hasOwn(objects, place.name)) objects[place.name] = {}
  const column: DeskColumn = place.kind === 'everything' ? everything : objects[place.name]!
  const isNeutral = number === fieldOfLine(line).neutral
  if (line.kind === 'row') {
    if (isNeutral) delete column[line.row]
    else column[line.row] = number
  } else {
    const holder: { lights?: Record<string, Animatable> } = place.kind === 'everything' ? desk : column
    const lights = (holder.lights ??= {})
    if (isNeutral) delete lights[line.group]
    else lights[line.group] = number
    if (!Object.keys(lights).length) delete holder.lights
  }
  if (place.kind === 'thing' && !Object.keys(column).length) delete objects[place.name]
}

/** Lines of a desk with such lights, in their order. */
export const deskLines = (lights: readonly string[], layers: boolean): DeskLine[] => [
  ...DESK_ROWS.map(row => ({ kind: 'row' as const, row })),
  ...(layers ? [{ kind: 'opacity' as const }] : []),
  ...lights.map(group => ({ kind: 'light' as const, group })),
]

/** Whether anything was said of a place; a layer's opacity counts where it is not whole. */
export function isSet(document: ShotDocument, render: string, place: DeskPlace): boolean {
  if (place.kind === 'thing') return Object.hasOwn(renderCalled(document, render).desk.objects, place.name)
  if (place.kind === 'everything') {
    const { everything, lights } = renderCalled(document, render).desk
    return Object.keys(everything).length > 0 || Object.keys(lights ?? {}).length > 0
  }
  const layer = layerCalled(document, place.id)
  return !!layer && (!!gradeOf(layer) || ('opacity' in layer && layer.opacity !== 1))
}

/** The numbers of a place, to be laid on another. */
export function copiedNumbers(
  document: ShotDocument,
  render: string,
  place: DeskPlace,
  lines: readonly DeskLine[],
): [DeskLine, Animatable][] {
  return lines.flatMap(line => {
    const number = deskNumber(document, render, place, line)
    return number === undefined ? [] : [[line, number] as [DeskLine, Animatable]]
  })
}

/** Makes a place's numbers those that were copied; what they do not tell of stays. lines: those of the desk. */
export function layNumbers(
  document: ShotDocument,
  render: string,
  place: DeskPlace,
  copied: readonly (readonly [DeskLine, Animatable])[],
  lines: readonly DeskLine[],
): void {
  const sayOf = (line: DeskLine): string => JSON.stringify(line)
  const there = new Set(lines.map(sayOf))
  for (const [line, number] of copied) if (there.has(sayOf(line))) setDeskNumber(document, render, place, line, number)
}

/** Sets all numbers of a place back. */
export function clearNumbers(
  document: ShotDocument,
  render: string,
  place: DeskPlace,
  lines: readonly DeskLine[],
): void {
  for (const line of lines) setDeskNumber(document, render, place, line, fieldOfLine(line).neutral!)
}
