// What a kind of matte declares. Interface, validation, documents, command line and help are made from it.
import type { EntryFields, ValuesAt } from '../declare/values'
import type { Box } from '../engine/box'
import type { Node } from '../plan/node'
import type { Picture } from '../plan/picture'
import type { Size } from '../plan/size'
import type { Contour } from './drawn/contour'
import type { Handles } from './handles'
import type { Join } from './join'

/** What a matte is made from. */
export interface MatteInput extends Picture {
  invert: boolean
  /**
   * Coverage of what is named, at the size that is worked at; undefined where there are no passes. relative: as a share
   * of what covers the pixel. Throws StillPacked.
   */
  named(relative: boolean): Node | undefined
  /** What is drawn of a line's own, in the pixels that are worked on. */
  shapes(): readonly DrawnShape[]
  strokes(): readonly DrawnStroke[]
  /** What is worked at: its frame, in its pixels. */
  size: Size
  /** Pixels that are worked on. */
  area: Box
  /** Where the frame's first pixel lies in what is worked on. */
  left: number
  top: number
  /** A pass by its id, colour or single as it holds three numbers or one; undefined where there is none. Throws StillPacked. */
  pass(id: string): Node | undefined
  /** The line's own picture (or a frame of its clip), where it has one, as the plate fits the frame. Throws StillPacked. */
  taken(): Node | undefined
  /** What the matte is made of at another frame, where that is known. Throws StillPacked. */
  at?: ((frame: number) => Picture) | undefined
  /** It lies on a layer that is premultiplied by its own coverage. */
  relative: boolean
}

/** A shape with how it goes on from those before it. */
export interface DrawnShape {
  contour: Contour
  join: Join
}
export interface DrawnStroke {
  /** The same for the same contour. */
  name: string
  /** Made where it is asked for. */
  contour(): Contour
  /** How much of it is given, or taken away. */
  flow: number
  takes: boolean
}

export const MATTE_GROUPS = ['Things', 'Colours', 'Space', 'Drawn', 'Other pictures'] as const
export type MatteGroup = (typeof MATTE_GROUPS)[number]

export interface MatteKind {
  id: string
  /** Under what it is found. */
  group: MatteGroup
  label: string
  help: string
  /** Words with {value} in their places. */
  sentence: string
  values: EntryFields
  /** The colour among its values that is taken from the picture by a click. */
  sample?: string
  /** Lists among them that take colours so, one by one, and what that is called. */
  samples?: readonly { name: string; label: string }[]
  /** Distances among its values that are taken so. */
  metres?: readonly string[]
  reads?: readonly ('depth' | 'passes')[]
  /** What of it the hand takes hold of on the picture, at values as they are at a frame. */
  handles?(values: never): Handles | undefined
  /** Whether a line of such values is made of a picture of its own. */
  pictured?(values: Readonly<Record<string, unknown>>): boolean
  /** The pass that it is made of at such values, by its id. */
  needs?(values: Readonly<Record<string, unknown>>): string | undefined
  /** One float a pixel, 0..1; undefined where it cannot be made. */
  plan(input: MatteInput, values: never): Node | undefined
  /**
   * Of what tells a thing from what stands behind it: the thing's own colour, as if it covered every pixel wholly, and
   * how much of the light behind falls on it.
   */
  unmix?(input: MatteInput, values: never): Unmixed
}
export interface Unmixed {
  colour: Node
  /** One float a pixel. */
  spill?: Node
}

/** Says what a kind of matte is, its values typed by what it declares. */
export const matteKind = <const F extends EntryFields>(
  declared: Omit<MatteKind, 'values' | 'plan' | 'unmix' | 'handles'> & {
    values: F
    handles?(values: ValuesAt<F>): Handles | undefined
    plan(input: MatteInput, values: ValuesAt<F>): Node | undefined
    unmix?(input: MatteInput, values: ValuesAt<F>): Unmixed
  },
): MatteKind => declared
