// What is done to the layers of a shot as a tree: made, grouped, moved, doubled, taken away.
import { ownOf } from '../declare/own'
import { firstValues, valuesAt } from '../declare/values'
import { FAR, type Sight } from '../layer/layer'
import { LAYER_KINDS, layerKindOf, type LayerId } from '../layer/registry'
import { valueAt, withValue, type Animatable } from '../time/curve'
import { identifier, LAID, newLayer, type ShotDocument } from './document'
import { sightOf } from './scene'
import { addRow, inOrder, moveRow, type Rows, type Unplaced } from './rows'
import type { GroupLayer, Layer, PassLayer, RenderLayer } from './schema/layer'
import type { PassFileReference } from './schema/passes'
import type { TreatmentSettings } from './schema/treatment'
import { groupOfLayer, inLaidOrder, layersIn, ownRender, standsAt, withAllIn } from './tree'

const copyOf = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

/** A layer of a kind as a new one begins, yet without a place. more: what its kind needs beside its values. */
export function makeLayer(kind: LayerId, more: Record<string, unknown> = {}): Unplaced<Layer> {
  const { label, values, holds, begins } = layerKindOf(kind)
  return {
    ...newLayer(identifier(), label),
    kind,
    ...(holds === 'pass' ? {} : LAID),
    ...Object.fromEntries(Object.entries(firstValues(values)).filter(([name]) => !values[name]!.optional)),
    ...(holds === 'layers' ? { ordered: 'by distance' } : holds === 'stuck' ? { ordered: 'by hand' } : {}),
    ...(holds === 'passes' ? { desk: { everything: {}, objects: {} } } : {}),
    ...begins,
    ...more,
  } as Unplaced<Layer>
}

/** Adds a layer beside another, in the same group; at the end where that is not there. Returns its id. */
export function addLayer(document: ShotDocument, layer: Unplaced<Layer>, beside?: string): string {
  const { layers } = document.build
  const neighbour = beside === undefined ? undefined : ownOf(layers, beside)
  const group = neighbour && groupOfLayer(layers, neighbour)
  addRow<Layer, Unplaced<Layer>>(
    layers,
    group ? ({ ...layer, within: group } as Unplaced<Layer>) : layer,
    neighbour?.id,
  )
  return layer.id
}

/** Makes one group of layers, where the first of them is; those in one of the others come along in it. Returns its id. */
export function groupTogether(document: ShotDocument, ids: readonly string[]): string {
  const { layers } = document.build
  const inside = new Set(ids.flatMap(id => withAllIn(layers, id).slice(1)).map(layer => layer.id))
  const chosen = inOrder(layers).filter(({ id }) => ids.includes(id) && !inside.has(id))
  if (!chosen.length) throw new Error('Nothing is chosen to be grouped.')
  const id = addLayer(document, makeLayer('group'), chosen[0]!.id)
  for (const layer of chosen) layer.within = id
  // An ink stays on its render where it comes later
  if (chosen.some(({ kind }) => kind === 'ink')) (layers[id] as GroupLayer).ordered = 'by hand'
  return id
}

/** Takes a group away and leaves what is in it where the group was. */
export function dissolve(document: ShotDocument, id: string): void {
  const { layers } = document.build
  const group = layers[id]!
  const up = groupOfLayer(layers, group)
  let last = id
  for (const layer of layersIn(layers, id)) {
    if (up) layer.within = up
    else delete layer.within
    moveRow(layers, layer.id, last)
    last = layer.id
  }
  delete layers[id]
}

/** Takes a layer away with all that is in it. */
export function removeLayer(document: ShotDocument, id: string): void {
  for (const layer of withAllIn(document.build.layers, id)) delete document.build.layers[layer.id]
}

/** A copy of layers under ids of its own; what they say of each other is said of the copies. */
export function renewed(list: readonly Layer[]): { copies: Layer[]; ids: Map<string, string> } {
  const ids = new Map(list.map(({ id }) => [id, identifier()]))
  const lines = (treatments: Rows<TreatmentSettings>): Rows<TreatmentSettings> =>
    Object.fromEntries(
      Object.values(treatments).map(line => {
        const id = identifier()
        return [id, { ...line, id }]
      }),
    )
  const copies = list.map(layer => {
    const made = copyOf(layer)
    made.id = ids.get(layer.id)!
    made.treatments = lines(made.treatments)
    if (made.within !== undefined) made.within = ids.get(made.within) ?? made.within
    if ('of' in made && made.of !== undefined) made.of = ids.get(made.of) ?? made.of
    return made
  })
  return { copies, ids }
}

/** A copy of a layer, and of all that is in it, next to it. Returns its id. */
export function duplicateLayer(document: ShotDocument, id: string): string {
  const { layers } = document.build
  const { copies, ids } = renewed(withAllIn(layers, id))
  for (const copy of copies) layers[copy.id] = copy
  const made = layers[ids.get(id)!]!
  made.name = `${made.name.slice(0, 190)} copy`
  moveRow(layers, made.id, id)
  return made.id
}

/** A place among layers as they are laid: next to one of them, or the last in a group (null: in none). */
export type LayerPlace = { beside: string; where: 'before' | 'after' } | { group: string | null }

/**
 * Puts a layer somewhere else among the layers, as they are laid at a frame. Next to one of those that are arranged by
 * distance it gets one between its neighbours, unless it stands there already; what stands somewhere by itself goes back
 * there when it is put where that is. Returns whether it could: nothing goes into itself.
 */
export function moveLayer(document: ShotDocument, id: string, place: LayerPlace, frame: number): boolean {
  const sight = sightOf(document, frame)
  const { layers } = document.build
  const layer = layers[id]!
  const group = 'group' in place ? place.group : groupOfLayer(layers, layers[place.beside]!)
  const own = new Set(withAllIn(layers, id).map(part => part.id))
  if ((group !== null && own.has(group)) || ('beside' in place && own.has(place.beside))) return false
  const others = inLaidOrder(layers, group, sight).filter(other => other.id !== id)
  let at = others.length
  if ('beside' in place) {
    at = others.findIndex(other => other.id === place.beside)
    if (place.where === 'after') at++
  }
  if (group === null) delete layer.within
  else layer.within = group
  const holder = group === null ? undefined : (layers[group] as GroupLayer)
  if ('beside' in place && holder?.ordered !== 'by hand') putBetween(layer, others, at, sight)
  moveRow(layers, id, others[at - 1]?.id ?? null)
  return true
}

/** What is put before or behind all others that stand at a distance stands so much nearer or farther. */
const BEYOND = 1.25
/** Where nothing stands at a distance. */
const NOWHERE = 20

/** Gives a layer a distance between those before and after a place of a list, from far to near. */
function putBetween(layer: Layer, others: readonly Layer[], at: number, sight: Sight): void {
  const { stands } = layerKindOf(layer.kind)
  if (stands === 'deep' && !('distance' in layer)) return
  const distances = (list: readonly Layer[]): number[] =>
    list.map(other => standsAt(other, sight)).filter((metres): metres is number => metres !== 'deep')
  const known = (metres: number): boolean => Math.abs(metres) < FAR
  const behind = distances(others.slice(0, at))
  const before = distances(others.slice(at))
  const farther = behind.filter(known).at(-1)
  const nearer = before.filter(known)[0]
  // Among what is behind all, or before all
  const isFar = farther === undefined && !behind.includes(-FAR)
  const isNear =
    nearer === undefined && !before.includes(FAR) && others.slice(at).every(other => standsAt(other, sight) !== 'deep')
  if ((stands === 'far' && isFar) || (stands === 'near' && isNear) || (stands === 'deep' && (isFar || isNear))) {
    delete (layer as { distance?: Animatable }).distance
    return
  }
  const own = standsAt(layer, sight)
  // Among those of one distance their order tells, and it comes just after what is behind it
  const isThere = (metres: number): boolean =>
    metres <= (farther ?? Infinity) && (metres > (nearer ?? 0) || metres === farther)
  if (typeof own === 'number' && known(own) && isThere(own)) return
  const metres =
    farther !== undefined && nearer !== undefined
      ? Math.sqrt(farther * nearer)
      : farther !== undefined
        ? farther / BEYOND
        : nearer !== undefined
          ? nearer * BEYOND
          : NOWHERE
  bringTo(layer, metres, sight)
}

/** Brings what stands somewhere to a distance: by its own value, or where it stands by other values by those. */
export function bringTo(layer: Layer, metres: number, { frame, camera }: Sight): void {
  const { standing, values } = layerKindOf(layer.kind)
  const own = layer as unknown as Record<string, Animatable | undefined>
  const to = standing
    ? standing.brought(valuesAt(values, layer as never, frame, valueAt) as never, camera(), metres)
    : { distance: metres }
  for (const [name, value] of Object.entries(to ?? {})) {
    const rounded = Number(value.toPrecision(standing ? 6 : 4))
    const now = own[name]
    own[name] = now === undefined ? rounded : withValue(now, frame, rounded)
  }
}

/** Layers for what a render has passes of and no layer lays yet. passes: those that count. */
export function addPassLayers(document: ShotDocument, render: RenderLayer, passes: readonly string[]): void {
  const { layers } = document.build
  for (const { id, pass, stands } of LAYER_KINDS) {
    if (!pass || !passes.includes(pass)) continue
    if (inOrder(layers).some(layer => layer.kind === id && (layer as PassLayer).of === render.id)) continue
    const made = makeLayer(id as LayerId, { of: render.id })
    if (render.file) made.name = `${made.name} of ${render.name}`.slice(0, 200)
    // Behind all things, and before all plates
    const far =
      stands === 'far' ? layersIn(layers, null).filter(other => standsAt(other, sightOf(document, 1)) === FAR) : []
    addRow<Layer, Unplaced<Layer>>(layers, made, far.at(-1)?.id)
  }
}

/** Rendered passes become the shot's; what they have for the first time gets its layer. */
export function takePasses(document: ShotDocument, file: PassFileReference): void {
  const before = document.passes.file?.passes ?? []
  document.passes.file = file
  const render = ownRender(document.build.layers)
  if (render)
    addPassLayers(
      document,
      render,
      file.passes.filter(pass => !before.includes(pass)),
    )
}

/** A render layer of passes of its own, with its shadow, wet ground and air. Returns its id. */
export function addRender(document: ShotDocument, file: PassFileReference, name: string): string {
  const made = makeLayer('render', { file, name: name.slice(0, 200) || 'Render' })
  const id = addLayer(document, made)
  addPassLayers(document, document.build.layers[id] as RenderLayer, file.passes)
  return id
}

/**
 * The shot's passes as they are now kept as a layer, which stays when they are rendered again: with the desk and lines of
 * the render, and off, so that the picture does not change. Returns its id; undefined where there is nothing to keep.
 */
export function keepRender(document: ShotDocument): string | undefined {
  const { file } = document.passes
  const render = ownRender(document.build.layers)
  if (!file || !render) return undefined
  const id = duplicateLayer(document, render.id)
  const made = document.build.layers[id] as RenderLayer
  made.name = `${render.name.slice(0, 190)} kept`
  made.file = copyOf(file)
  made.on = false
  return id
}
