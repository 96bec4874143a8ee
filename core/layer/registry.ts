// Every kind of layer there is. To add one: a file beside this, its line here, its test.
import { accent } from './accent'
import { air } from './air'
import { clouds } from './clouds'
import { element } from './element'
import { figure } from './figure'
import { fogBank } from './fogBank'
import { gradient } from './gradient'
import { group } from './group'
import { ink } from './ink'
import type { LayerKind } from './layer'
import { picture } from './picture'
import { plate } from './plate'
import { render } from './render'
import { shadow } from './shadow'
import { specks } from './specks'
import { stuck } from './stuck'
import { underwater } from './underwater'
import { wash } from './wash'
import { water } from './water'
import { wet } from './wet'
import { words } from './words'

export const LAYERS = {
  plate,
  render,
  shadow,
  wet,
  ink,
  air,
  picture,
  figure,
  element,
  stuck,
  words,
  accent,
  specks,
  water,
  underwater,
  fogbank: fogBank,
  wash,
  gradient,
  clouds,
  group,
} as const
export type LayerId = keyof typeof LAYERS
export const LAYER_KINDS = Object.values(LAYERS) as readonly LayerKind[]

/** The kind of layer of that id. Throws when there is none. */
export function layerKindOf(id: string): LayerKind {
  if (!Object.hasOwn(LAYERS, id)) throw new Error(`There is no kind of layer “${id}”.`)
  return LAYERS[id as LayerId]
}
