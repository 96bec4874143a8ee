// What is kept of the desk's numbers in the document.
import { describe, expect, it } from 'vitest'
import { documentFaults } from '../../shared/validate'
import {
  clearNumbers,
  copiedNumbers,
  deskLines,
  deskNumber,
  gradeOf,
  isSet,
  layNumbers,
  setDeskNumber,
  type DeskLine,
} from './desk'
import { newDocument, newTreatment } from './document'
import { addLayer, makeLayer } from './layers'
import { addRow } from './rows'
import { slipOf } from './slip'

const EXPOSURE: DeskLine = { kind: 'row', row: 'exposure' }
const LAMP: DeskLine = { kind: 'light', group: 'lantern' }
const BELL = { kind: 'thing', name: 'bell' } as const
const ALL = { kind: 'everything' } as const
const LINES = deskLines(['lantern'], true)

describe('a thing', () => {
  it('keeps what is said of it, and nothing when it is back at neutral', () => {
    const document = newDocument()
    const empty = structuredClone(document)
    expect(deskNumber(document, 'render', BELL, EXPOSURE)).toBe(0)
    setDeskNumber(document, 'render', BELL, EXPOSURE, 1.5)
    setDeskNumber(document, 'render', BELL, LAMP, 0.4)
    setDeskNumber(document, 'render', ALL, LAMP, 2)
    expect(documentFaults(document)).toEqual([])
    expect([EXPOSURE, LAMP].map(line => deskNumber(document, 'render', BELL, line))).toEqual([1.5, 0.4])
    expect(deskNumber(document, 'render', ALL, LAMP)).toBe(2)
    expect([isSet(document, 'render', BELL), isSet(document, 'render', ALL)]).toEqual([true, true])
    setDeskNumber(document, 'render', BELL, EXPOSURE, 0)
    setDeskNumber(document, 'render', BELL, LAMP, 1)
    setDeskNumber(document, 'render', ALL, LAMP, 1)
    expect(document).toEqual(empty)
  })
  it('has no environment of its own and no opacity; all of a render has the one', () => {
    const document = newDocument()
    const environment: DeskLine = { kind: 'row', row: 'environment' }
    expect(deskNumber(document, 'render', BELL, environment)).toBeUndefined()
    expect(deskNumber(document, 'render', BELL, { kind: 'opacity' })).toBeUndefined()
    setDeskNumber(document, 'render', BELL, environment, 2)
    expect(document).toEqual(newDocument())
    expect(deskNumber(document, 'render', ALL, environment)).toBe(1)
  })
  it('may be called like what every object has', () => {
    const document = newDocument()
    const odd = { kind: 'thing', name: 'constructor' } as const
    expect(deskNumber(document, 'render', odd, EXPOSURE)).toBe(0)
    setDeskNumber(document, 'render', odd, EXPOSURE, 1)
    expect(deskNumber(document, 'render', odd, EXPOSURE)).toBe(1)
  })
})

describe('a layer', () => {
  it('is graded by a line of its recipe, which goes when all of it is neutral', () => {
    const document = newDocument()
    const id = addLayer(document, makeLayer('wash'))
    const place = { kind: 'layer', id } as const
    addRow(document.build.layers[id]!.treatments, newTreatment('blur', { radius: 2 }, 'b'))
    setDeskNumber(document, 'render', place, EXPOSURE, -1)
    setDeskNumber(document, 'render', place, { kind: 'row', row: 'warmth' }, 40)
    expect(documentFaults(document)).toEqual([])
    const line = gradeOf(document.build.layers[id]!)!
    expect(line.values).toMatchObject({ exposure: -1, warmth: 40, contrast: 1, saturation: 1 })
    // Before what was there
    expect(line.order < document.build.layers[id]!.treatments.b!.order).toBe(true)
    expect(deskNumber(document, 'render', place, EXPOSURE)).toBe(-1)
    setDeskNumber(document, 'render', place, EXPOSURE, 0)
    setDeskNumber(document, 'render', place, { kind: 'row', row: 'warmth' }, 0)
    expect(Object.keys(document.build.layers[id]!.treatments)).toEqual(['b'])
  })
  it('leaves alone a line that works only somewhere, is weaker, or off', () => {
    const document = newDocument()
    const { treatments } = document.build.layers.plate!
    for (const [id, more] of Object.entries({ off: { on: false }, weak: { strength: 0.5 } }))
      addRow(treatments, { ...newTreatment('desk_grade', { exposure: 2 }, id), ...more })
    addRow(treatments, { ...newTreatment('desk_grade', { exposure: 2 }, 'where'), matte: slipOf() })
    const place = { kind: 'layer', id: 'plate' } as const
    expect(deskNumber(document, 'render', place, EXPOSURE)).toBe(0)
    setDeskNumber(document, 'render', place, EXPOSURE, 1)
    expect(['off', 'weak', 'where'].map(id => treatments[id]!.values.exposure)).toEqual([2, 2, 2])
    expect(Object.keys(treatments)).toHaveLength(4)
  })
  it('has an opacity where it has one, and no light', () => {
    const document = newDocument()
    const opacity = { kind: 'opacity' } as const
    setDeskNumber(document, 'render', { kind: 'layer', id: 'plate' }, opacity, 0.5)
    expect(document.build.layers.plate).toMatchObject({ opacity: 0.5 })
    expect(isSet(document, 'render', { kind: 'layer', id: 'plate' })).toBe(true)
    expect(deskNumber(document, 'render', { kind: 'layer', id: 'shadow' }, opacity)).toBeUndefined()
    expect(deskNumber(document, 'render', { kind: 'layer', id: 'plate' }, LAMP)).toBeUndefined()
    expect(deskNumber(document, 'render', { kind: 'layer', id: 'gone' }, EXPOSURE)).toBeUndefined()
  })
})

it('a column that is copied and laid makes another the same, and what was said there before is gone', () => {
  const document = newDocument()
  const other = { kind: 'thing', name: 'rope' } as const
  setDeskNumber(document, 'render', BELL, EXPOSURE, 1)
  setDeskNumber(document, 'render', BELL, LAMP, 0.3)
  setDeskNumber(document, 'render', other, { kind: 'row', row: 'reflection' }, 3)
  const copied = copiedNumbers(document, 'render', BELL, LINES)
  layNumbers(document, 'render', other, copied, LINES)
  const { objects } = (document.build.layers.render as { desk: { objects: Record<string, unknown> } }).desk
  expect(objects.rope).toEqual(objects.bell)
  // On a layer only what it has
  layNumbers(document, 'render', { kind: 'layer', id: 'plate' }, copied, LINES)
  expect(gradeOf(document.build.layers.plate!)!.values.exposure).toBe(1)
  expect(documentFaults(document)).toEqual([])
  // What the copy does not tell of stays: a thing has no opacity
  setDeskNumber(document, 'render', { kind: 'layer', id: 'plate' }, { kind: 'opacity' }, 0.5)
  layNumbers(document, 'render', { kind: 'layer', id: 'plate' }, copied, LINES)
  expect(document.build.layers.plate).toMatchObject({ opacity: 0.5 })
  // Of lights that the other render does not have nothing is kept
  layNumbers(document, 'render', ALL, copied, deskLines([], true))
  expect((document.build.layers.render as { desk: { lights?: object } }).desk.lights).toBeUndefined()
  clearNumbers(document, 'render', other, LINES)
  expect(objects.rope).toBeUndefined()
  clearNumbers(document, 'render', { kind: 'layer', id: 'plate' }, LINES)
  expect(document.build.layers.plate).toMatchObject({ opacity: 1, treatments: {} })
})
