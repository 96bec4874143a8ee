// What is brought back from a kept version, and what is said to differ.
import { expect, it } from 'vitest'
import { documentFaults } from '../../shared/validate'
import { newDocument, type ShotDocument } from './document'
import { bringAllBack, bringLayerBack, differingLayers } from './ledger'
import { addLayer, groupTogether, makeLayer, removeLayer } from './layers'

function kept(): { then: ShotDocument; wash: string; inner: string; group: string } {
  const then = newDocument(64, 48)
  const wash = addLayer(then, makeLayer('wash', { distance: 12, name: 'haze' }))
  const inner = addLayer(then, makeLayer('wash', { distance: 5, name: 'warm' }))
  const group = groupTogether(then, [inner])
  return { then, wash, inner, group }
}

it('nothing differs of what is the same; what differs or is gone is told, in the order of the version', () => {
  const { then, wash, inner, group } = kept()
  const now = structuredClone(then)
  expect(differingLayers(now, then)).toEqual([])
  Object.assign(now.build.layers[wash]!, { distance: 3 })
  removeLayer(now, group)
  // What is new now is no part of the version
  addLayer(now, makeLayer('wash', { name: 'new' }))
  const found = differingLayers(now, then).map(({ layer, gone }) => [layer.id, gone])
  expect(found).toHaveLength(3)
  expect(Object.fromEntries(found)).toEqual({ [wash]: false, [group]: true, [inner]: true })
})

it('what stands in another order is the same: a store keeps keys as it likes', () => {
  const { then } = kept()
  const turned = (value: unknown): unknown =>
    typeof value === 'object' && value !== null && !Array.isArray(value)
      ? Object.fromEntries(
          Object.entries(value)
            .reverse()
            .map(([key, inner]) => [key, turned(inner)]),
        )
      : value
  expect(differingLayers(then, turned(then) as ShotDocument)).toEqual([])
})

it('a layer comes back as it was, all else stays; the version is no part of the shot', () => {
  const { then, wash } = kept()
  const now = structuredClone(then)
  Object.assign(now.build.layers[wash]!, { distance: 3, name: 'mist' })
  const made = addLayer(now, makeLayer('wash', { name: 'new' }))
  bringLayerBack(now, then, wash)
  expect(now.build.layers[wash]).toEqual(then.build.layers[wash])
  expect(now.build.layers[made]).toMatchObject({ name: 'new' })
  Object.assign(now.build.layers[wash]!, { distance: 1 })
  expect(then.build.layers[wash]).toMatchObject({ distance: 12 })
  expect(documentFaults(now)).toEqual([])
})

it('a group comes back with what was in it; what was in a group that is gone comes alone', () => {
  const { then, inner, group } = kept()
  const now = structuredClone(then)
  removeLayer(now, group)
  bringLayerBack(now, then, inner)
  expect(now.build.layers[inner]).not.toHaveProperty('within')
  expect(documentFaults(now)).toEqual([])
  bringLayerBack(now, then, group)
  expect(now.build.layers).toEqual(then.build.layers)
})

it('all of it is what it was, whatever came since', () => {
  const { then } = kept()
  const now = structuredClone(then)
  addLayer(now, makeLayer('wash', { name: 'new' }))
  now.frame = { width: 10, height: 20 }
  Object.assign(now, { later: true })
  bringAllBack(now, then)
  expect(now).toEqual(then)
})
