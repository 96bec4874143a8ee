// The layers of a shot as a tree: which is in which group, and where each stands.
import { ownOf } from '../declare/own'
import { FAR, type Sight } from '../layer/layer'
import { valuesAt } from '../declare/values'
import { layerKindOf } from '../layer/registry'
import { valueAt, type Animatable } from '../time/curve'
import { inOrder, type Rows } from './rows'
import type { GroupLayer, Layer, RenderLayer } from './schema/layer'
import type { PassFileReference } from './schema/passes'
import type { ShotDocument } from './schema/shot'

type Layers = Rows<Layer>
export const isGroup = (layer: Layer | undefined): layer is GroupLayer =>
  layer?.kind === 'group' || layer?.kind === 'stuck'

/**
 * The group that a layer is in; null for none. A group that is gone holds nothing, and groups that two writers have put
 * into each other stand in none.
 */
export function groupOfLayer(layers: Layers, layer: Layer): string | null {
  const passed = new Set<string>()
  let at: Layer | undefined = layer
  while (at) {
    const up: string | undefined = at.within
    const next: Layer | undefined = up === undefined || !Object.hasOwn(layers, up) ? undefined : layers[up]
    if (!isGroup(next)) break
    if (next.id === layer.id) return null
    if (passed.has(next.id)) break
    passed.add(next.id)
    at = next
  }
  const own = layer.within
  return own !== undefined && Object.hasOwn(layers, own) && isGroup(layers[own]) && own !== layer.id ? own : null
}

/** What is in a group (null: in none), in its order. */
export const layersIn = (layers: Layers, group: string | null): Layer[] =>
  inOrder(layers).filter(layer => groupOfLayer(layers, layer) === group)

/** A layer and all that is in it, outermost first. */
export const withAllIn = (layers: Layers, id: string): Layer[] =>
  Object.hasOwn(layers, id) ? [layers[id]!, ...layersIn(layers, id).flatMap(layer => withAllIn(layers, layer.id))] : []

/** The groups that a layer is in, innermost first. */
export function groupsRound(layers: Layers, id: string): string[] {
  const layer = layers[id]
  const group = layer && groupOfLayer(layers, layer)
  return group ? [group, ...groupsRound(layers, group)] : []
}

/** Where a layer stands: metres, FAR behind all, -FAR before all, or by the depth of what it shows. */
export function standsAt(layer: Layer, { frame, camera }: Sight): number | 'deep' {
  const { distance } = layer as { distance?: Animatable }
  if (distance !== undefined) return valueAt(distance, frame)
  const { stands, standing, values } = layerKindOf(layer.kind)
  if (standing) return standing.metres(valuesAt(values, layer as never, frame, valueAt) as never, camera())
  return stands === 'deep' ? 'deep' : stands === 'far' ? FAR : -FAR
}

/** Whether a layer shows things at several distances, to be cut by those of others. */
export const showsDepths = (layer: Layer, sight: Sight): boolean =>
  layerKindOf(layer.kind).stands === 'amid' || standsAt(layer, sight) === 'deep'

/**
 * Layers that are arranged by distance, from far to near; those of one distance as they are ordered. What stands by its
 * depth comes before what stands before all.
 */
export function farToNear(list: readonly Layer[], sight: Sight): Layer[] {
  const rank = (layer: Layer): number => {
    const at = standsAt(layer, sight)
    return at === 'deep' ? 0 : at
  }
  return [...list].sort((a, b) => rank(b) - rank(a))
}

/** What is in a group (null: in none), as it is laid: from what is laid first on. */
export function inLaidOrder(layers: Layers, group: string | null, sight: Sight): Layer[] {
  const list = layersIn(layers, group)
  const holder = group === null ? undefined : (layers[group] as GroupLayer)
  return holder?.ordered === 'by hand' ? list : farToNear(list, sight)
}

/** The render that a layer is, or is of; undefined where it is of none or that is gone. */
export function renderOf(layers: Layers, layer: Layer): RenderLayer | undefined {
  if (layer.kind === 'render') return layer
  const of = (layer as { of?: string }).of
  const found = of === undefined ? undefined : ownOf(layers, of)
  return found?.kind === 'render' ? found : undefined
}
/** The render that shows the shot's own passes; undefined where there is none. */
export const ownRender = (layers: Layers): RenderLayer | undefined =>
  inOrder(layers).find((layer): layer is RenderLayer => layer.kind === 'render' && !layer.file)
/** What says how far away what a layer shows is: a plate's own depth, else as passFileOf has it. */
export function depthFileOf(document: ShotDocument, id?: string): PassFileReference | null {
  const layer = id === undefined ? undefined : ownOf(document.build.layers, id)
  return (layer?.kind === 'plate' && layer.depth) || passFileOf(document, id)
}
/** The passes of the render that a layer is, or is of; the shot's own for all others. Null where there are none. */
export function passFileOf({ build: { layers }, passes }: ShotDocument, id?: string): PassFileReference | null {
  const layer = id === undefined ? undefined : ownOf(layers, id)
  return (layer && renderOf(layers, layer)?.file) ?? passes.file
}
