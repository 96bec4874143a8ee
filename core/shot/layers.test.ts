// What is done to the tree of layers: whatever it is, each layer stands in it once, and where it was put.
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { documentFaults } from '../../shared/validate'
import { FAR } from '../layer/layer'
import { layerKindOf, type LayerId } from '../layer/registry'
import { newDocument, newTreatment, type Layer, type RenderLayer, type ShotDocument } from './document'
import {
  addLayer,
  addRender,
  dissolve,
  duplicateLayer,
  groupTogether,
  keepRender,
  makeLayer,
  moveLayer,
  removeLayer,
  takePasses,
} from './layers'
import { copiedText, isCopied, pasting } from './paste'
import { addRow, inOrder } from './rows'
import { sightOf } from './scene'
import { groupOfLayer, inLaidOrder, isGroup, layersIn, standsAt, withAllIn } from './tree'

const picture = { blob: 'a'.repeat(64), name: 'p.png', encoding: 'srgb', alpha: 'none', width: 4, height: 4 } as const
const WORDED = { text: 'Words', font: { name: 'A font', files: [{ blob: 'a'.repeat(64), name: 'a.ttf' }] } }
const PLACED = { picture, x: 1, y: 2, scale: 1, rotation: 0 }
const file = (passes: string[]) => ({
  blob: 'b'.repeat(64),
  name: 'passes.exr',
  width: 64,
  height: 64,
  passes,
  objects: ['bell'],
  materials: [],
  of: '',
})
/** A shot with pictures at those distances, called by them. */
function shot(...metres: number[]): ShotDocument {
  const document = newDocument(64, 64)
  for (const distance of metres)
    addLayer(document, {
      ...makeLayer('picture', { ...PLACED, distance }),
      id: `at${distance}`,
      name: `at ${distance}`,
    })
  return document
}
const laid = (document: ShotDocument, group: string | null = null): string[] =>
  inLaidOrder(document.build.layers, group, sightOf(document, 1)).map(({ id }) => id)
const metresAt = (layer: Layer): number | 'deep' => standsAt(layer, sightOf(newDocument(64, 64), 1))
const metresOf = (document: ShotDocument, id: string): unknown =>
  standsAt(document.build.layers[id]!, sightOf(document, 1))

it('a new layer of every kind is valid, and is of the render that it is given', () => {
  const document = shot()
  for (const kind of [
    'plate',
    'render',
    'shadow',
    'wet',
    'ink',
    'air',
    'picture',
    'words',
    'accent',
    'specks',
    'water',
    'underwater',
    'fogbank',
    'wash',
    'group',
    'stuck',
  ] as LayerId[]) {
    const { holds } = layerKindOf(kind)
    addLayer(
      document,
      makeLayer(kind, {
        ...(holds === 'pass' ? { of: 'render' } : {}),
        ...(holds === 'picture' ? PLACED : {}),
        ...(holds === 'words' ? WORDED : {}),
      }),
    )
  }
  expect(documentFaults(document)).toEqual([])
})

it('between two that stand at a distance a layer stands in the middle of both, in proportion', () => {
  const document = shot(16, 4, 2)
  moveLayer(document, 'at2', { beside: 'at4', where: 'before' }, 1)
  expect(metresOf(document, 'at2')).toBe(8)
  // It stands there already
  moveLayer(document, 'at2', { beside: 'at16', where: 'after' }, 1)
  expect(metresOf(document, 'at2')).toBe(8)
  moveLayer(document, 'at2', { beside: 'at16', where: 'before' }, 1)
  expect(metresOf(document, 'at2')).toBe(20)
  moveLayer(document, 'at2', { beside: 'at4', where: 'after' }, 1)
  expect(metresOf(document, 'at2')).toBe(3.2)
})

it('what stands somewhere by itself gets a distance among others, and goes back', () => {
  const document = shot(16, 4)
  moveLayer(document, 'shadow', { beside: 'at16', where: 'after' }, 1)
  expect(metresOf(document, 'shadow')).toBe(8)
  moveLayer(document, 'shadow', { beside: 'plate', where: 'after' }, 1)
  expect(document.build.layers.shadow).not.toHaveProperty('distance')
  expect(laid(document).slice(0, 2)).toEqual(['plate', 'shadow'])
  const air = addLayer(document, makeLayer('air', { of: 'render' }))
  expect(laid(document).at(-1)).toBe(air)
  moveLayer(document, air, { beside: 'at4', where: 'before' }, 1)
  expect(metresOf(document, air)).toBe(8)
  moveLayer(document, air, { beside: 'render', where: 'after' }, 1)
  expect(document.build.layers[air]).not.toHaveProperty('distance')
})

it('a distance that moves keeps its keys, and gets one where it is put', () => {
  const document = shot(16, 4)
  Object.assign(document.build.layers.at4!, {
    distance: { keys: [1, 9].map(frame => ({ frame, value: 4, ease: 'linear' })) },
  })
  moveLayer(document, 'at4', { beside: 'at16', where: 'before' }, 5)
  expect((document.build.layers.at4 as unknown as { distance: { keys: unknown[] } }).distance.keys).toEqual([
    { frame: 1, value: 4, ease: 'linear' },
    { frame: 5, value: 20, ease: expect.any(String) },
    { frame: 9, value: 4, ease: 'linear' },
  ])
})

it('whatever is done, every layer stands in the tree once, next to what it was put beside', () => {
  const act = fc.record({
    kind: fc.constantFrom('move', 'move', 'into', 'out', 'group', 'dissolve', 'double', 'remove', 'paste', 'hand'),
    which: fc.nat(),
    to: fc.nat(),
    after: fc.boolean(),
  })
  fc.assert(
    fc.property(fc.array(act, { maxLength: 30 }), acts => {
      const document = shot(30, 12, 5, 5, 2)
      const { layers } = document.build
      for (const { kind, which, to, after } of acts) {
        const all = inOrder(layers)
        const layer = all[which % all.length]!
        const other = all[to % all.length]!
        const groups = all.filter(isGroup)
        const group = groups[to % Math.max(1, groups.length)]
        const before = Object.keys(layers)
        const own = withAllIn(layers, layer.id).map(({ id }) => id)
        if (kind === 'move') {
          const can = !own.includes(other.id)
          const where = after ? 'after' : 'before'
          expect(moveLayer(document, layer.id, { beside: other.id, where }, 1)).toBe(can)
          const list = laid(document, groupOfLayer(layers, other))
          const holder = layers[groupOfLayer(layers, other) ?? '']
          // What stands by its depth has no place among distances, and a distance none among what is behind or before all
          const byItself = (one: Layer): boolean =>
            typeof metresAt(one) === 'number' && Math.abs(metresAt(one) as number) >= FAR
          const fixed = [layer, other].some(one => metresAt(one) === 'deep') || byItself(layer) !== byItself(other)
          if (can && (!fixed || (isGroup(holder) && holder.ordered === 'by hand')))
            expect(list.indexOf(layer.id)).toBe(list.indexOf(other.id) + (after ? 1 : -1))
        } else if (kind === 'into' && group) {
          expect(moveLayer(document, layer.id, { group: group.id }, 1)).toBe(!own.includes(group.id))
        } else if (kind === 'out') moveLayer(document, layer.id, { group: null }, 1)
        else if (kind === 'group') {
          const id = groupTogether(document, [layer.id, other.id])
          expect(withAllIn(layers, id).map(part => part.id)).toEqual(expect.arrayContaining([layer.id, other.id]))
        } else if (kind === 'hand' && group) group.ordered = after ? 'by hand' : 'by distance'
        else if (kind === 'dissolve' && group) {
          dissolve(document, group.id)
          expect(Object.keys(layers).sort()).toEqual(before.filter(id => id !== group.id).sort())
        } else if (kind === 'double' && all.length < 40) {
          const id = duplicateLayer(document, layer.id)
          expect(withAllIn(layers, id)).toHaveLength(own.length)
          expect(groupOfLayer(layers, layers[id]!)).toBe(groupOfLayer(layers, layer))
        } else if (kind === 'remove' && all.length > 3) {
          removeLayer(document, layer.id)
          expect(Object.keys(layers).sort()).toEqual(before.filter(id => !own.includes(id)).sort())
        } else if (kind === 'paste' && all.length < 40) {
          const names = withAllIn(layers, layer.id).map(({ name }) => name)
          const made = pasting(copiedText(document, 's', [layer.id]), document, 's').into(document, other.id)
          expect(made).toHaveLength(1)
          expect(withAllIn(layers, made[0]!).map(({ name }) => name)).toEqual(names)
        }
        const whole = (group: string | null): string[] =>
          layersIn(layers, group).flatMap(({ id }) => [id, ...whole(id)])
        expect(whole(null).sort()).toEqual(Object.keys(layers).sort())
        expect(documentFaults(document)).toEqual([])
      }
    }),
    { numRuns: 400 },
  )
}, 60000)

it('a copy speaks of what was copied with it, and its lines are its own', () => {
  const document = shot(5)
  const group = groupTogether(document, ['render', 'shadow', 'at5'])
  addRow(document.build.layers.at5!.treatments, newTreatment('exposure', { stops: 1 }, 'e'))
  const copy = duplicateLayer(document, group)
  const inside = layersIn(document.build.layers, copy)
  const render = inside.find(({ kind }) => kind === 'render')!
  const shadow = inside.find(({ kind }) => kind === 'shadow') as Layer & { of: string }
  expect(shadow.of).toBe(render.id)
  const lines = inOrder(inside.find(({ kind }) => kind === 'picture')!.treatments)
  expect(lines.map(({ kind }) => kind)).toEqual(['exposure'])
  expect(lines[0]!.id).not.toBe('e')
})

it('pasted into another shot, layers keep what they show and stand as large on its frame', () => {
  const from = shot(5)
  from.passes.file = file(['beauty', 'depth'])
  from.plate = { ...picture, name: 'plate.png' }
  const text = copiedText(from, 'one', ['plate', 'shadow', 'render', 'at5'])
  expect(isCopied(text)).toBe(true)
  const to = newDocument(128, 128)
  to.passes.file = { ...file(['beauty']), blob: 'c'.repeat(64) }
  const { into, blobs, alone } = pasting(text, to, 'two')
  expect(documentFaults(alone)).toEqual([])
  expect(blobs.sort()).toEqual(['a'.repeat(64), 'b'.repeat(64)])
  const made = into(to).map(id => to.build.layers[id]!)
  const [plate, , render, placed] = made as [Layer, Layer, RenderLayer, Layer & { x: number; scale: number }]
  expect(plate).toMatchObject({ kind: 'plate', picture: { name: 'plate.png' } })
  expect(render.file?.blob).toBe('b'.repeat(64))
  expect((made[1] as Layer & { of: string }).of).toBe(render.id)
  // Twice the frame: twice as far from its corner, twice as large
  expect([placed.x, placed.scale]).toEqual([2, 2])
  expect(documentFaults(to)).toEqual([])
  // In its own shot it shows what that renders
  const again = pasting(copiedText(from, 'one', ['render']), from, 'one').into(from)
  expect(from.build.layers[again[0]!]).not.toHaveProperty('file')
  // A shadow alone is of the render that is there
  const [alone2] = pasting(copiedText(from, 'one', ['shadow']), to, 'two').into(to)
  expect((to.build.layers[alone2!] as Layer & { of: string }).of).toBe('render')
})

it('what is no text of layers is refused, and nothing is changed', () => {
  const to = shot(5)
  const before = JSON.stringify(to)
  const text = copiedText(to, 'one', ['at5'])
  expect(isCopied('{ "a": 1 }')).toBe(false)
  expect(() => pasting(text.slice(0, -5), to, 'one')).toThrow(/not whole/)
  expect(() => pasting(text.replace(/"version": \d+/, '"version": 99'), to, 'one')).toThrow(/version 99/)
  expect(() => pasting('{"northmist":"layers","version":4}', to, 'one')).toThrow(/no layers/)
  expect(() => pasting(text.padEnd(8388609), to, 'one')).toThrow(/too large/)
  const odd = pasting(text.replace('"kind": "picture"', '"kind": "smoke"'), to, 'one')
  expect(documentFaults(odd.alone).join()).toMatch(/kind: must be one of/)
  expect(JSON.stringify(to)).toBe(before)
})

it('passes that a render has for the first time bring their layers, those of before stay away where they were removed', () => {
  const document = shot()
  takePasses(document, file(['beauty', 'shadow', 'wet']))
  expect(laid(document).map(id => document.build.layers[id]!.kind)).toEqual(['plate', 'shadow', 'wet', 'render'])
  delete document.build.layers.shadow
  takePasses(document, file(['beauty', 'shadow', 'wet', 'volume']))
  expect(laid(document).map(id => document.build.layers[id]!.kind)).toEqual(['plate', 'wet', 'render', 'air'])
  const kept = document.build.layers[keepRender(document)!] as RenderLayer
  expect([kept.on, kept.file?.passes.length]).toEqual([false, 4])
  const other = addRender(document, file(['beauty', 'shadow']), 'other')
  const own = Object.values(document.build.layers).filter(layer => 'of' in layer && layer.of === other)
  expect(own.map(({ kind, name }) => [kind, name])).toEqual([['shadow', 'Shadow of other']])
  expect(documentFaults(document)).toEqual([])
})
