// The ledger: kept versions of a shot, and what is brought back from one.
import { ownOf } from '../declare/own'
import jsonPatch from 'fast-json-patch'
import type { Layer, ShotDocument } from './document'
import { inOrder } from './rows'
import { withAllIn } from './tree'

/** Kept by hand, or by itself when something was sent. */
export type VersionReason = 'kept' | 'sent'
/** A kept version as it is listed. */
export interface KeptVersion {
  id: string
  name: string
  why: VersionReason
  picture: string | null
  createdAt: string
}

const same = (a: Layer, b: Layer): boolean => jsonPatch.compare(a, b).length === 0

/** The layers of a version that are not now as they were then: those that are gone, and those that differ. */
export function differingLayers(now: ShotDocument, then: ShotDocument): { layer: Layer; gone: boolean }[] {
  const { layers } = now.build
  return inOrder(then.build.layers).flatMap(layer => {
    const own = ownOf(layers, layer.id)
    return own && same(own, layer) ? [] : [{ layer, gone: !own }]
  })
}

/**
 * Brings a layer of a version back, a group with all that is in it, where it was among the others; what it was by now is
 * no more. A group that it was in and that is gone it is not in.
 */
export function bringLayerBack(document: ShotDocument, then: ShotDocument, id: string): void {
  const { layers } = document.build
  for (const layer of withAllIn(then.build.layers, id)) layers[layer.id] = structuredClone(layer)
  const { within } = layers[id]!
  if (within !== undefined && !Object.hasOwn(layers, within)) delete layers[id]!.within
}

/** Makes a document what a version was, all of it. */
export function bringAllBack(document: ShotDocument, then: ShotDocument): void {
  const whole = structuredClone(then)
  const own = document as unknown as Record<string, unknown>
  for (const key of Object.keys(own)) if (!Object.hasOwn(whole, key)) delete own[key]
  Object.assign(document, whole)
}
