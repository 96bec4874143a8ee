// Several pages change one shot at random, offline for moments. Each page is the application's own laying of changes
// (core/shot/patch.ts) and the server's own rule: a patch is accepted on the newest revision only.
import jsonPatch, { type Operation } from 'fast-json-patch'
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { newDocument, newTreatment, type PictureLayer, type ShotDocument } from '../core/shot/document'
import { changesBetween, forceChanges, layChanges, patchOf, type Refused } from '../core/shot/patch'
import { groupTogether, moveLayer } from '../core/shot/layers'
import { addRow, inOrder, moveRow } from '../core/shot/rows'
import { isGroup, layersIn } from '../core/shot/tree'
import { documentFaults } from '../shared/validate'

const copy = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T
let made = 0
const pictureLayer = (): Omit<PictureLayer, 'order'> => ({
  id: `l${++made}`,
  kind: 'picture',
  name: `name of l${made}`,
  on: true,
  opacity: 1,
  mode: 'over',
  treatments: {},
  picture: { blob: 'a'.repeat(64), name: 'p.png', encoding: 'srgb', alpha: 'none', width: 4, height: 4 },
  distance: 5,
  x: 0,
  y: 0,
  scale: 1,
  rotation: 0,
})

class Server {
  revision = 1
  document = newDocument(64, 64)
  patch(revision: number, patch: Operation[]): boolean {
    if (revision !== this.revision) return false
    this.document = jsonPatch.applyPatch(copy(this.document), copy(patch), true).newDocument
    this.revision++
    return true
  }
}
class Page {
  committed: ShotDocument
  document: ShotDocument
  revision: number
  refused: Refused[] = []
  constructor(private server: Server) {
    this.committed = copy(server.document)
    this.document = copy(server.document)
    this.revision = server.revision
  }
  save(): void {
    for (;;) {
      const changes = changesBetween(this.committed, this.document)
      if (!changes.length) return
      if (this.server.patch(this.revision, patchOf(changes))) {
        this.revision = this.server.revision
        this.committed = copy(this.document)
        return
      }
      const { document, refused } = layChanges(this.server.document, changes)
      // What is laid replaces only what this page had seen
      const told = refused.flatMap(({ changes }) => changes)
      for (const { path, before, after } of changes.filter(change => !told.includes(change))) {
        const theirs = jsonPatch.getValueByPointer(this.server.document, `/${path.join('/')}`) as unknown
        expect([JSON.stringify(before), JSON.stringify(after)]).toContain(JSON.stringify(theirs))
      }
      this.committed = copy(this.server.document)
      this.revision = this.server.revision
      this.document = document
      this.refused.push(...refused)
    }
  }
}

it('every change that is accepted is on the thing that it was made for; what is refused is said by its name; nothing is lost', () => {
  const act = fc.record({
    page: fc.nat(),
    kind: fc.constantFrom(
      ...(['fade', 'fade', 'move', 'name', 'add', 'delete', 'treat', 'turn', 'group', 'into', 'out'] as const),
      ...(['save', 'save', 'save'] as const),
    ),
    which: fc.nat(),
    to: fc.nat(),
  })
  fc.assert(
    fc.property(fc.integer({ min: 2, max: 8 }), fc.array(act, { maxLength: 80 }), (pages, acts) => {
      const server = new Server()
      for (let i = 0; i < 4; i++) addRow(server.document.build.layers, pictureLayer())
      const all = Array.from({ length: pages }, () => new Page(server))
      // The model: of each thing the values that anybody ever gave it, each unlike all others; what was deleted
      const given = new Map<string, Set<number>>()
      const deleted = new Set<string>()
      let unlike = 0
      const note = (id: string): number => {
        const value = ++unlike / 1000
        given.set(id, (given.get(id) ?? new Set()).add(value))
        return value
      }
      for (const { page: n, kind, which, to } of acts) {
        const page = all[n % pages]!
        const { layers } = page.document.build
        const list = inOrder(layers).filter((layer): layer is PictureLayer => layer.kind === 'picture')
        const groups = inOrder(layers).filter(isGroup)
        const layer = list[which % Math.max(1, list.length)]
        const other = inOrder(layers)[to % inOrder(layers).length]!
        if (kind === 'save') page.save()
        else if (kind === 'add') addRow(layers, pictureLayer(), other.id)
        else if (!layer) continue
        else if (kind === 'fade') layer.opacity = note(layer.id)
        else if (kind === 'group') {
          const id = groupTogether(page.document, [layer.id, other.id])
          layers[id]!.name = `name of ${id}`
        } else if (kind === 'into' && groups.length)
          moveLayer(page.document, other.id, { group: groups[which % groups.length]!.id }, 1)
        else if (kind === 'out') moveLayer(page.document, layer.id, { group: null }, 1)
        else if (kind === 'into') continue
        else if (kind === 'name') layer.name = `name of ${layer.id}`
        else if (kind === 'move') moveRow(layers, layer.id, other.id)
        else if (kind === 'treat')
          addRow(layer.treatments, newTreatment('exposure', { stops: note(`t${++made}`) }, `t${made}`))
        else if (kind === 'turn') {
          const treatment = inOrder(layer.treatments)[0]
          if (treatment) treatment.values.stops = note(treatment.id)
        } else {
          delete layers[layer.id]
          deleted.add(layer.id)
        }
      }
      for (let round = 0; round < 2; round++) for (const page of all) page.save()
      const { layers } = server.document.build
      expect(documentFaults(server.document)).toEqual([])
      for (const layer of Object.values(layers)) {
        if (layer.kind !== 'picture') continue
        expect(layer.name).toBe(`name of ${layer.id}`)
        if (layer.opacity !== 1) expect(given.get(layer.id)).toContain(layer.opacity)
        for (const { id, values } of Object.values(layer.treatments)) expect(given.get(id)).toContain(values.stops)
      }
      // Whatever they did to the groups at once, each layer stands in one place of the tree
      const laid = (group: string | null): string[] => layersIn(layers, group).flatMap(({ id }) => [id, ...laid(id)])
      expect(laid(null).sort()).toEqual(Object.keys(layers).sort())
      // Nothing goes that nobody took away
      for (const page of all)
        for (const id of Object.keys(page.document.build.layers))
          if (!deleted.has(id)) expect(layers).toHaveProperty(id)
      // What a page asked for stands, or it was told of it by its name
      for (const page of all) {
        const told = new Set(page.refused.flatMap(({ changes }) => changes.map(({ path }) => path[2])))
        for (const { name } of page.refused) expect(name).toMatch(/^(name of \w+(: Exposure)?|Plate|Shadow|Render)$/)
        for (const id of Object.keys(page.document.build.layers))
          if (!(id in layers)) expect(deleted.has(id) || told.has(id)).toBe(true)
      }
    }),
    { numRuns: 2000 },
  )
}, 120000)
it('the change of one page is laid over what another did to the same list: the neighbour is not touched', () => {
  const server = new Server()
  const ids = ['haze', 'people', 'bird'].map(
    name => addRow(server.document.build.layers, { ...pictureLayer(), name }).id,
  )
  const [a, b] = [new Page(server), new Page(server)]
  delete a.document.build.layers[ids[0]!]
  a.save()
  ;(b.document.build.layers[ids[1]!] as PictureLayer).opacity = 0.3
  b.save()
  expect(inOrder(server.document.build.layers).map(layer => [layer.name, (layer as PictureLayer).opacity])).toEqual([
    ['Plate', 1],
    ['Shadow', undefined],
    ['Render', 1],
    ['people', 0.3],
    ['bird', 1],
  ])
})

it('a change of what is gone comes back with its name and can be laid no more; one of the same value can', () => {
  const server = new Server()
  const { id } = addRow(server.document.build.layers, { ...pictureLayer(), name: 'haze' })
  addRow(server.document.build.layers[id]!.treatments, newTreatment('exposure', { stops: 1 }, 'e'))
  const mine = copy(server.document)
  mine.build.layers[id]!.treatments.e!.values.stops = 3
  const changes = changesBetween(server.document, mine)
  const theirs = copy(server.document)
  theirs.build.layers[id]!.treatments.e!.values.stops = 2
  const asked = layChanges(theirs, changes)
  expect(asked.refused).toMatchObject([{ name: 'haze: Exposure', gone: false }])
  expect(asked.document).toEqual(theirs)
  expect(forceChanges(theirs, changes)).toEqual([])
  expect(theirs).toEqual(mine)
  delete theirs.build.layers[id]
  expect(layChanges(theirs, changes).refused).toMatchObject([{ name: 'haze: Exposure', gone: true }])
  expect(forceChanges(theirs, changes)).toEqual(changes)
})

it('a thing of which another page changed something is not deleted unasked', () => {
  const server = new Server()
  const { id } = addRow(server.document.build.layers, { ...pictureLayer(), name: 'haze' })
  const mine = copy(server.document)
  delete mine.build.layers[id]
  const theirs = copy(server.document)
  ;(theirs.build.layers[id] as PictureLayer).opacity = 0.5
  const { document, refused } = layChanges(theirs, changesBetween(server.document, mine))
  expect(refused).toMatchObject([{ name: 'haze', gone: false }])
  expect(document.build.layers[id]).toBeDefined()
})

it('two pages that each give an object its first settings, of different kinds, both have them', () => {
  const before = newDocument()
  const [mine, theirs] = [copy(before), copy(before)]
  mine.scene.objects.bell = { scale: 2 }
  theirs.scene.objects.bell = { hidden: true }
  const { document, refused } = layChanges(theirs, changesBetween(before, mine))
  expect([document.scene.objects.bell, refused]).toEqual([{ hidden: true, scale: 2 }, []])
})

it('a list or a curve changes as a whole: a key of another page’s curve is not taken for one’s own', () => {
  const before = newDocument()
  before.scene.camera.pitch = { keys: [5, 10].map(frame => ({ frame, value: 0, ease: 'linear' as const })) }
  const [mine, theirs] = [copy(before), copy(before)]
  const curveOf = (document: ShotDocument) =>
    document.scene.camera.pitch as { keys: { frame: number; value: number; ease: 'linear' }[] }
  curveOf(theirs).keys.unshift({ frame: 1, value: 0, ease: 'linear' })
  curveOf(mine).keys[1]!.value = 7
  const { refused } = layChanges(theirs, changesBetween(before, mine))
  expect(refused).toMatchObject([{ name: 'Camera' }])
})
