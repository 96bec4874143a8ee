// Every kind of matte there is. To add one: a file beside this, its line here, its test.
import { brightness } from './brightness'
import { depth } from './depth'
import type { MatteKind } from './matte'
import { names } from './names'

export const MATTES: readonly MatteKind[] = [names, depth, brightness]

/** The kind of matte of that id. Throws when there is none. */
export function matteKindOf(id: string): MatteKind {
  const found = MATTES.find(kind => kind.id === id)
  if (!found) throw new Error(`There is no matte “${id}”.`)
  return found
}
