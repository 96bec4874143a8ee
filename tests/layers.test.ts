// The tree of layers: what each kind does to what is behind it, and groups.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { newTreatment, type Layer } from '../core/shot/document'
import { makeLayer } from '../core/shot/layers'
import { addRow, type Unplaced } from '../core/shot/rows'
import { slipOf, valuedTerm } from '../core/shot/slip'
import { documentFaults } from '../shared/validate'
import { add, built, close, pixel, shot, strip, useLayers, WIDTH } from './layeredShot'

useLayers()

describe('what a layer does to what is behind it', () => {
  it('a shadow multiplies what is farther by its pass, as much as it says, and stands where it is put', async () => {
    const document = shot()
    add(document, 'picture', strip(20, 30, 1, { distance: 8 }))
    add(document, 'shadow', { id: 's', of: 'render', amount: 1 })
    // Behind all: nothing is behind it
    expect(pixel(await built(document), 25)[0]).toBe(1)
    ;(document.build.layers.s as { distance?: number }).distance = 9
    let now = await built(document)
    expect([pixel(now, 25)[0], pixel(now, 32)[0], pixel(now, 5)[0]]).toEqual([1, 0.25, 0.5])
    ;(document.build.layers.s as { distance?: number }).distance = 7
    now = await built(document)
    expect([pixel(now, 25)[0], pixel(now, 32)[0]]).toEqual([0.5, 0.25])
    Object.assign(document.build.layers.s!, { amount: 2 })
    expect(pixel(await built(document), 25)[0]).toBe(0)
    // It is treated like any other: its pass a stop brighter is no shadow any more
    Object.assign(document.build.layers.s!, { amount: 1 })
    addRow(document.build.layers.s!.treatments, newTreatment('exposure', { stops: 1 }, 'e'))
    expect(pixel(await built(document), 25)[0]).toBe(1)
  })
  it('lays its pass only where its slip says, of what is behind it; where that cannot be made everywhere', async () => {
    const document = shot()
    add(document, 'shadow', { id: 's', of: 'render', amount: 1, distance: 9 })
    add(document, 'air', { id: 'a', of: 'render', amount: 1, distance: 8 })
    const [shadow, air] = [document.build.layers.s!, document.build.layers.a!]
    air.on = false
    const [behind, shaded] = [0.5, 0.25]
    // 3t^2 - 2t^3 from the left to the right
    const along = slipOf({
      ...valuedTerm('gradient'),
      values: { shape: 'line', from_x: 0, from_y: 0, to_x: WIDTH, to_y: 0 },
    })
    const share = (x: number): number => ((x + 0.5) / WIDTH) ** 2 * (3 - (2 * (x + 0.5)) / WIDTH)
    shadow.matte = along
    expect(documentFaults(document)).toEqual([])
    let now = await built(document)
    for (const x of [22, 27, 32, 38]) expect(pixel(now, x)[0]).toBeCloseTo(behind + (shaded - behind) * share(x), 5)
    expect(pixel(now, 5)[0]).toBe(behind)
    // A matte of brightness is of what is behind: all of 0.5, so that the air lies everywhere but on the shadow
    air.on = true
    delete shadow.matte
    air.matte = slipOf({ ...valuedTerm('brightness'), values: { low: 0.45, high: 1, soft: 0.01 } })
    now = await built(document)
    const aired = behind * 0.8 + 0.05
    expect(pixel(now, 5)[0]).toBeCloseTo(aired, 5)
    expect(pixel(now, 25)[0]).toBeCloseTo(shaded, 5)
    air.matte = slipOf(valuedTerm('facing'))
    expect(pixel(await built(document), 25)[0]).toBeCloseTo(shaded * 0.8 + 0.05, 5)
  })
  it('wet ground adds its light, air takes and adds, only to what is behind', async () => {
    const document = shot()
    add(document, 'picture', strip(20, 40, 1, { distance: 8 }))
    add(document, 'wet', { of: 'render', amount: 2, distance: 9 })
    add(document, 'air', { id: 'a', of: 'render', amount: 0.5, distance: 9 })
    let now = await built(document)
    expect(pixel(now, 32)[0]).toBe(1)
    // 0.5 less a tenth of it, and half of 0.05
    expect(pixel(now, 5)[0]).toBeCloseTo(0.5 * 0.9 + 0.025, 6)
    // The wall, 10 m away, is behind the air at 9 m
    expect(pixel(now, 15)[0]).toBeCloseTo(0.25 * 0.9 + 0.025, 6)
    delete (document.build.layers.a as { distance?: number }).distance
    now = await built(document)
    expect(pixel(now, 32)[0]).toBeCloseTo(0.9 + 0.025, 6)
  })
  it('ink lies on what is behind it; in a group with its render on that alone, and what it bites out shows the plate', async () => {
    const document = shot()
    add(document, 'ink', { id: 'i', of: 'render', strength: 0, bite: 1, colour: [0, 0, 0], distance: 9 })
    // All that is behind is taken out
    expect(pixel(await built(document), 10)).toEqual([0, 0, 0, 0])
    const group = add(document, 'group', { ordered: 'by hand' })
    document.build.layers.render!.within = group
    document.build.layers.i!.within = group
    delete (document.build.layers.i as { distance?: number }).distance
    expect(pixel(await built(document), 10)).toEqual([0.5, 0.5, 0.5, 1])
    Object.assign(document.build.layers.i!, { bite: 0, strength: 0.5, colour: [1, 0, 0] })
    expect(pixel(await built(document), 10)).toEqual([0.25 / 2 + 0.5, 0.125, 0.125, 1])
  })
  it('a picture catches the shadow and the occlusion of a render', async () => {
    const document = shot()
    add(document, 'picture', strip(16, 40, 1, { id: 'p', distance: 8, of: 'render', shadow: 1, occlusion: 0.5 }))
    const now = await built(document)
    expect([18, 25, 36].map(x => pixel(now, x)[0])).toEqual([1, 0.5, 0.5 * 0.75])
    // Of a render that is gone it catches nothing
    Object.assign(document.build.layers.p!, { of: 'nobody' })
    expect(pixel(await built(document), 25)[0]).toBe(1)
  })
  it('a second plate is a picture of its own over the frame; seen alone only one is', async () => {
    const document = shot()
    const { picture } = strip(0, WIDTH, 1) as { picture: object }
    add(document, 'plate', { id: 'second', picture, opacity: 0.5 })
    expect(pixel(await built(document), 5)[0]).toBe(0.5)
    expect(pixel(await built(document, ['second']), 5)).toEqual([0.5, 0.5, 0.5, 0.5])
    // With all that is in it, and what it is in; one that is gone counts for nothing
    const group = add(document, 'group', {})
    document.build.layers.second!.within = group
    expect(pixel(await built(document, [group]), 5)).toEqual([0.5, 0.5, 0.5, 0.5])
    expect(pixel(await built(document, ['second']), 5)).toEqual([0.5, 0.5, 0.5, 0.5])
    expect(await built(document, ['gone'])).toEqual(await built(document))
  })
})

describe('groups', () => {
  it('a treatment on a group works on what is in it, together, and on nothing else', async () => {
    const document = shot()
    const group = add(document, 'group', { id: 'g' })
    add(document, 'picture', { ...strip(0, 5, 0.2), within: group, distance: 3 })
    document.build.layers.render!.within = group
    addRow(document.build.layers.g!.treatments, newTreatment('exposure', { stops: 1 }, 'e'))
    const now = await built(document)
    expect([2, 7, 15].map(x => Number(pixel(now, x)[0]!.toFixed(6)))).toEqual([0.4, 0.5, 0.5])
  })
  it('by hand, what comes later lies before what is nearer; put at a distance, a group stands there as a whole', async () => {
    const document = shot()
    const group = add(document, 'group', { id: 'g', ordered: 'by hand' })
    add(document, 'picture', { ...strip(0, 20, 0.2), within: group, distance: 3 })
    add(document, 'picture', { ...strip(0, 20, 0.8), within: group, distance: 30 })
    expect(pixel(await built(document), 5)[0]).toBeCloseTo(0.8, 6)
    Object.assign(document.build.layers.g!, { ordered: 'by distance' })
    expect(pixel(await built(document), 5)[0]).toBeCloseTo(0.2, 6)
    // Between them stands the wall, 10 m away
    Object.assign(document.build.layers.g!, { distance: 20 })
    expect(pixel(await built(document), 15)[0]).toBe(0.25)
    Object.assign(document.build.layers.g!, { distance: 9 })
    expect(pixel(await built(document), 15)[0]).toBeCloseTo(0.2, 6)
  })
  it('layers laid over each other are the same picture in whatever groups they stand', async () => {
    // Over is associative (Porter and Duff 1984): what groups hold is only bracketed
    await fc.assert(
      fc.asyncProperty(
        fc.array(
          fc.record({
            from: fc.nat(30),
            wide: fc.integer({ min: 2, max: 10 }),
            metres: fc.integer({ min: 2, max: 30 }),
            value: fc.integer({ min: 0, max: 255 }),
            opacity: fc.integer({ min: 1, max: 4 }),
            group: fc.nat(5),
          }),
          { minLength: 1, maxLength: 6 },
        ),
        fc.array(fc.nat(3), { minLength: 4, maxLength: 4 }),
        fc.boolean(),
        async (strips, within, inside) => {
          const plain = shot()
          strips.forEach(({ from, wide, metres, value, opacity }, i) => {
            // No two at one distance: those are laid in their order, which a group changes
            add(
              plain,
              'picture',
              strip(from, from + wide, value / 255, { id: `p${i}`, distance: metres + i / 16, opacity: opacity / 4 }),
            )
          })
          const grouped = structuredClone(plain)
          within.forEach((up, i) => {
            addRow<Layer, Unplaced<Layer>>(grouped.build.layers, {
              ...makeLayer('group', { id: `g${i}` }),
              ...(up < i ? { within: `g${up}` } : {}),
            } as Unplaced<Layer>)
          })
          strips.forEach(({ group }, i) => {
            if (group < within.length) grouped.build.layers[`p${i}`]!.within = `g${group}`
          })
          if (inside) grouped.build.layers.render!.within = 'g0'
          close(await built(grouped), await built(plain), 2e-6)
        },
      ),
      { numRuns: 60 },
    )
  }, 60000)
  it('what is put into itself by two writers is not lost: it stands in no group', async () => {
    const document = shot()
    add(document, 'group', { id: 'a', within: 'b' })
    add(document, 'group', { id: 'b', within: 'a' })
    add(document, 'picture', { ...strip(0, 20, 1), within: 'a', distance: 3 })
    expect(pixel(await built(document), 5)[0]).toBe(1)
  })
})
