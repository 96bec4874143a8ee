// Every kind of matte there is. To add one: a file beside this, its line here, its test.
import { brush } from './brush'
import { brightness } from './brightness'
import { change } from './change'
import { channel } from './channel'
import { colour } from './colour'
import { depth } from './depth'
import { facing } from './facing'
import { gradient } from './gradient'
import { occlusion } from './occlusion'
import { picture } from './picture'
import { place } from './place'
import { key } from './key/key'
import type { MatteKind } from './matte'
import { names } from './names'
import { noise } from './noise'
import { shape } from './shape'

export const MATTES: readonly MatteKind[] = [
  names,
  key,
  change,
  colour,
  brightness,
  channel,
  depth,
  facing,
  occlusion,
  place,
  shape,
  brush,
  gradient,
  noise,
  picture,
]

/** The kind of matte of that id. Throws when there is none. */
export function matteKindOf(id: string): MatteKind {
  const found = MATTES.find(kind => kind.id === id)
  if (!found) throw new Error(`There is no matte “${id}”.`)
  return found
}
