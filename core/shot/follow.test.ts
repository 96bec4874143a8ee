// A copy of a document that follows another by what differs: whatever changes, whatever is shared.
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { newDocument, type PlateLayer, type ShotDocument } from './document'
import { followed, stepsTo } from './patch'

const plateOf = (document: ShotDocument): PlateLayer => document.build.layers.plate as PlateLayer

const part = fc.letrec<{ value: unknown }>(tie => ({
  value: fc.oneof(
    { depthSize: 'small' },
    fc.double({ noNaN: true }),
    fc.string({ maxLength: 3 }),
    fc.constant(null),
    fc.array(fc.integer(), { maxLength: 3 }),
    fc.constant({ keys: [{ frame: 1, value: 2, ease: 'linear' }] }),
    fc.dictionary(fc.constantFrom('a', 'b', 'c', 'd'), tie('value'), { maxKeys: 4 }),
  ),
})).value
const documents = fc.dictionary(
  fc.constantFrom('build', 'finish', 'scene', 'plate'),
  part,
) as unknown as fc.Arbitrary<ShotDocument>

it('is the other after its steps, and is itself left as it was', () => {
  fc.assert(
    fc.property(documents, documents, documents, (first, second, third) => {
      const before = JSON.stringify(first)
      const sent = (from: ShotDocument, to: ShotDocument): ReturnType<typeof stepsTo> =>
        JSON.parse(JSON.stringify(stepsTo(from, to))) as ReturnType<typeof stepsTo>
      const then = followed(first, sent(first, second))
      expect(then).toEqual(JSON.parse(JSON.stringify(second)))
      expect(followed(then, sent(second, third))).toEqual(JSON.parse(JSON.stringify(third)))
      expect(JSON.stringify(first)).toBe(before)
    }),
    { numRuns: 2000 },
  )
})

it('shares what did not change, and tells only what did', () => {
  const first = newDocument()
  const second = structuredClone(first)
  plateOf(second).opacity = 0.5
  const steps = stepsTo(first, second)
  expect(steps).toEqual([{ path: ['build', 'layers', 'plate', 'opacity'], value: 0.5 }])
  const then = followed(first, steps)
  expect(then.scene).toBe(first.scene)
  expect(then.build.layers.render).toBe(first.build.layers.render)
  expect(then.build.layers.plate).not.toBe(first.build.layers.plate)
  expect(plateOf(first).opacity).toBe(1)
  expect(stepsTo(second, structuredClone(second))).toEqual([])
})
