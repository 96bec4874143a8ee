// What the picture is built of: layers of the kinds that there are, in groups.
import { DESK } from '../../layer/desk'
import { DISTANCE, share, standsByItself, type Holds, type Stands } from '../../layer/layer'
import { BLEND_MODES } from '../../plan/modes'
import { LAYERS, type LayerId } from '../../layer/registry'
import type { EntryFields } from '../../declare/values'
import {
  choice,
  either,
  flag,
  list,
  name,
  optional,
  rows,
  text,
  thing,
  type Fields,
  type Row,
  type ThingField,
  type ThingOf,
  type ValueOf,
} from '../../declare/field'
import { MOST_CHARACTERS } from '../../words/limits'
import { SLIP } from './matte'
import { PASS_FILE } from './passes'
import { BLOB_REFERENCE, PICTURE } from './picture'
import { TREATMENT } from './treatment'

const layerId = (): ReturnType<typeof text> => text(1, 40, { refers: 'layer' })
/** Of every layer. */
const COMMON = {
  name: name(),
  on: flag(),
  note: optional(text(0, 4000, { label: 'note' })),
  /** The group that it is in; where there is none of that id, it is in none. */
  within: optional(layerId()),
  treatments: rows(TREATMENT, 200),
}
/** Of those that are laid over what is behind them. */
export const LAID_FIELDS = {
  opacity: share('opacity', '', 1),
  mode: choice(
    BLEND_MODES.map(mode => mode.id),
    { label: 'blending mode' },
  ),
}
/** What of it is there at all, where it says so: it is cut to that before its lines. */
const LAID = { ...LAID_FIELDS, matte: optional(SLIP) }
/** Names of things of a render that stand before it, wherever they are. */
const BEHIND = { behind: optional(list(text(1, 300, { refers: 'object' }), 1000)) }
const lightName = (): ReturnType<typeof text> & { optional: true } => optional(text(1, 300, { label: 'light' }))
/** Line by line. */
export const WORDS_TEXT = text(1, MOST_CHARACTERS, { label: 'text' })
/** Files that stand in for each other: of each character the first that has it. */
const MOST_FONT_FILES = 16
export const FONT = thing({ name: text(1, 300), files: list(BLOB_REFERENCE, MOST_FONT_FILES) })
/** By what a layer holds (core/layer/layer.ts). */
const HELD = {
  /** depth: how far away what it shows is, where that is known: a set of passes with nothing else. */
  plate: { ...LAID, picture: optional(PICTURE), depth: optional(PASS_FILE) },
  /** of: the render whose shadow and occlusion fall on it. */
  picture: { ...LAID, ...BEHIND, picture: PICTURE, of: optional(layerId()) },
  /**
   * matte: what of its own picture it is; ground: where its shadow falls; wet: where it is mirrored; light: what lights it, by its name, where
   * one is chosen; names: what its own picture shows by name, where that is a render.
   */
  'cut-out': {
    ...{ ...LAID, ...BEHIND },
    picture: PICTURE,
    names: optional(PASS_FILE),
    ground: optional(SLIP),
    wet: optional(SLIP),
    light: lightName(),
  },
  /** light: what lights it, by its name, where one is chosen. */
  element: { ...LAID, picture: PICTURE, light: lightName() },
  /** light: the only one that lights it, by its name; all of the scene where none is chosen. */
  lit: { ...LAID, light: lightName() },
  /** of: the render that it lights. */
  lamp: { ...LAID, of: optional(layerId()) },
  words: { ...LAID, ...BEHIND, text: WORDS_TEXT, font: FONT },
  /** The shot's own passes where it has none. */
  passes: { ...LAID, file: optional(PASS_FILE), desk: DESK },
  /** By distance what is nearer covers what is farther; by hand what comes later what comes before. */
  layers: { ...LAID, ordered: choice(['by distance', 'by hand']) },
  /** of: the render that it sticks to. */
  stuck: { ...LAID, ordered: choice(['by distance', 'by hand']), of: optional(layerId()) },
  /** of: the render; matte: where of what is behind it it is laid. */
  pass: { of: layerId(), matte: optional(SLIP) },
  nothing: { ...LAID, ...BEHIND },
} satisfies Record<Holds, Fields>
/** Where what stands somewhere by itself was put. */
const PUT = { distance: optional(DISTANCE) }

/** What a layer of a kind is; `kind` tells them apart. */
type LayerOf<K extends { id: string; values: EntryFields; stands: Stands; holds: Holds }> = ThingOf<
  typeof COMMON & (typeof HELD)[K['holds']] & K['values'] & (K['stands'] extends 'at' | 'amid' ? object : typeof PUT)
> & { kind: K['id'] }
type LayerThings = { [I in LayerId]: ThingField & { readonly sample?: LayerOf<(typeof LAYERS)[I]> } }

const THINGS = Object.fromEntries(
  Object.values(LAYERS).map(({ id, values, stands, holds }) => [
    id,
    thing(
      { ...COMMON, kind: choice([id]), ...HELD[holds], ...values, ...(standsByItself(stands) ? {} : PUT) } as Fields,
      { title: layer => (layer as unknown as { name: string }).name },
    ),
  ]),
) as unknown as LayerThings
export const LAYER = either('kind', THINGS)
export const BUILD = thing({ layers: rows(LAYER, 500) })

type Of<I extends LayerId> = LayerOf<(typeof LAYERS)[I]> & Row
export type Layer = { [I in LayerId]: Of<I> }[LayerId]
export type PlateLayer = Of<'plate'>
export type RenderLayer = Of<'render'>
export type PictureLayer = Of<'picture'>
export type FigureLayer = Of<'figure'>
export type ElementLayer = Of<'element'>
export type SpecksLayer = Of<'specks'>
export type WaterLayer = Of<'water'>
export type WordsLayer = Of<'words'>
export type FontReference = ValueOf<typeof FONT>
export type WashLayer = Of<'wash'>
/** What has other layers in it. */
export type StuckLayer = Of<'stuck'>
export type GroupLayer = Of<'group'> | StuckLayer
/** What lays a pass of a render. */
export type PassLayer = Extract<Layer, { of: string }>
