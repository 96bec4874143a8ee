import { operatorKey } from '../engine/key'
import type { ShotDocument } from './document'
import { hasLens } from './lens'
import { needsPlate } from './scene'

/** With the keys of every object in order: a database may return them in another. */
function ordered(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(ordered)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).sort(([a], [b]) => a < b ? -1 : 1).map(([key, entry]) => [key, ordered(entry)]))
}

/** Changes with anything that the passes are rendered from: passes with another stamp are out of date. */
export function sceneStamp(document: ShotDocument): string {
  const { file: _file, ...passes } = document.passes
  // Shadow trims and pins are laid on afterwards; the lens changes what must be seen beyond the frame
  const objects = Object.fromEntries(Object.entries(document.scene.objects).map(([name, { shadowDensity: _density, shadowColour: _colour, pins: _pins, locked: _locked, group: _group, ...settings }]) => [name, settings]))
  const { track: _track, ...scene } = document.scene, plate = needsPlate(document) ? document.plate : undefined, lens = hasLens(document) ? { k1: document.lens!.k1, k2: document.lens!.k2 } : undefined
  return operatorKey('scene', 1, ordered([{ ...scene, objects }, passes, document.frame, ...plate || lens ? [plate ?? null, lens ?? null] : []]))
}
