import { operatorKey } from '../engine/key'
import type { ShotDocument } from './document'

/** With the keys of every object in order: a database may return them in another. */
function ordered(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(ordered)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).sort(([a], [b]) => a < b ? -1 : 1).map(([key, entry]) => [key, ordered(entry)]))
}

/** Changes with anything that the passes are rendered from: passes with another stamp are out of date. */
export function sceneStamp(document: ShotDocument): string {
  const { file: _file, ...passes } = document.passes
  return operatorKey('scene', 1, ordered([document.scene, passes, document.frame]))
}
