// What has a beginning and an end along the view, as it is found and moved.
import { describe, expect, it } from 'vitest'
import { documentFaults } from '../../shared/validate'
import { newDocument, newTreatment, type ElementLayer } from './document'
import { addLayer, makeLayer } from './layers'
import { addRow } from './rows'
import { sightOf } from './scene'
import { newTerm, slipOf } from './slip'
import { bringEnd, soundedAt } from './sounded'
import { standsAt } from './tree'

const PICTURE = { blob: 'a'.repeat(64), name: 'a.png', encoding: 'srgb', alpha: 'straight', width: 64, height: 64 }
const metresOf = (document: ReturnType<typeof newDocument>, id: string): number[] =>
  soundedAt(document, 1, id)!.ends.map(({ metres }) => metres)

it('a fog bank has two ends that do not pass each other', () => {
  const document = newDocument()
  const id = addLayer(document, makeLayer('fogbank'))
  expect(Object.keys(document.build.layers).filter(one => soundedAt(document, 1, one))).toEqual([id])
  expect(metresOf(document, id)).toEqual([8, 60])
  bringEnd(document, 1, id, 0, 12)
  bringEnd(document, 1, id, 1, 40)
  expect(document.build.layers[id]).toMatchObject({ near: 12, far: 40 })
  bringEnd(document, 1, id, 0, 500)
  const [near, far] = metresOf(document, id)
  expect(near).toBeLessThan(far!)
  expect(far).toBe(40)
  expect(documentFaults(document)).toEqual([])
})

it('an element is as thick before its middle as behind it, and its middle stays where it is', () => {
  const document = newDocument()
  const id = addLayer(document, makeLayer('element', { picture: PICTURE, thickness: 2 }))
  const layer = document.build.layers[id] as ElementLayer
  const middle = standsAt(layer, sightOf(document, 1)) as number
  expect(metresOf(document, id)).toEqual([middle - 1, middle + 1])
  bringEnd(document, 1, id, 1, middle + 2.5)
  expect(layer.thickness).toBeCloseTo(5, 3)
  bringEnd(document, 1, id, 0, middle - 0.5)
  expect(layer.thickness).toBeCloseTo(1, 3)
  // Across its middle nothing is left
  bringEnd(document, 1, id, 0, middle + 3)
  expect(layer.thickness).toBe(0)
  expect(standsAt(layer, sightOf(document, 1))).toBe(middle)
})

describe('lines and slips', () => {
  it('a line with one end goes on from there; keys are set at the frame', () => {
    const document = newDocument()
    addRow(
      document.finish,
      newTreatment('fog', { half: 60, from: { keys: [{ frame: 1, value: 3, ease: 'linear' }] } }, 'f'),
    )
    expect(metresOf(document, 'f')).toEqual([3])
    bringEnd(document, 1, 'f', 0, 20)
    expect(document.finish.f!.values.from).toMatchObject({ keys: [{ frame: 1, value: 20 }] })
    expect(documentFaults(document)).toEqual([])
  })
  it('brackets of a slip are moved; what has no distance has none', () => {
    const document = newDocument()
    const slip = slipOf(newTerm('depth'), newTerm('brightness'), newTerm('gradient'))
    addRow(document.finish, { ...newTreatment('exposure', { stops: 1 }, 'e'), matte: slip })
    const [depth, bright, gradient] = Object.values(slip.terms)
    expect(metresOf(document, depth!.id)).toEqual([0, 20])
    bringEnd(document, 1, depth!.id, 0, 4.5)
    expect(depth).toMatchObject({ values: { near: 4.5 } })
    expect(soundedAt(document, 1, bright!.id)).toBeUndefined()
    // It is along a line of the picture, until it is told to go by distance
    expect(soundedAt(document, 1, gradient!.id)).toBeUndefined()
    expect(soundedAt(document, 1, 'e')).toBeUndefined()
    expect(soundedAt(document, 1, 'gone')).toBeUndefined()
  })
})
