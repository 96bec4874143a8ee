// What a treatment declares. Interface, validation, documents, command line and help are made from it.
import type { HandlesOf } from './handles'
import type { EntryValue } from '../declare/field'
import type { EntryFields, ValuesAt } from '../declare/values'
import type { FocusCamera } from '../lens/focus'
import type { Camera } from '../scene/scene'
import type { Surroundings } from '../scene/surroundings'
import type { SeenLamp } from './lampsSeen'
import type { Picture, Shaping } from '../plan/picture'
import type { SmallPicture } from '../formats/picture/small'
import type { Likeness } from '../measure/likeness'
import type { Lut } from '../colour/lut'
import type { Node } from '../plan/node'
import { isPointKernel } from '../formula/point'

export const TREATMENT_GROUPS = [
  'Light',
  'Colour',
  'Numbers',
  'Lens',
  'Air',
  'Softness',
  'Drawn look',
  'Shape',
] as const
export type TreatmentGroup = (typeof TREATMENT_GROUPS)[number]

export interface TreatmentFiles {
  /** Endings that are read. */
  accept: string
  /** What a file holds, each with what it is called. Throws BadInput. */
  read(bytes: Uint8Array): { label: string; values: Record<string, number> }[]
  ending: string
  write(values: Readonly<Record<string, unknown>>, name: string): string
}
export interface TakeOfColour {
  label: string
  /** colour: scene-linear, divided by alpha, as it comes to the line. */
  values(colour: readonly [number, number, number]): Record<string, EntryValue>
}
export interface TakeOfDistance {
  label: string
  /** Of what stands where the click is. */
  metres: (metres: number, held: Readonly<Record<string, unknown>>, seen: SeenBy) => Record<string, EntryValue>
  /** Where Shift is held. */
  shifted?: TakeOfDistance['metres']
  /** The value that goes on with what is there, from frame to frame. */
  follows?: string
}
export type Take = TakeOfColour | TakeOfDistance
/** Two values between which a zone lies, on a line of distances: as they are held, and as an end is brought somewhere. */
export interface Zone {
  middle: string
  ends(held: Readonly<Record<string, unknown>>, seen: SeenBy): { near: number; far: number }
  moved(
    ends: { near?: number; far?: number },
    held: Readonly<Record<string, unknown>>,
    seen: SeenBy,
  ): Record<string, EntryValue>
}
/** The shot's camera at the frame, and pixels of its frame across. */
export interface SeenBy {
  camera: FocusCamera
  width: number
}
export interface Treatment {
  id: string
  label: string
  help: string
  /** Under what it is found. */
  group: TreatmentGroup
  /** The sentence of the recipe: words with {value} in their places. */
  sentence: string
  values: EntryFields
  /** How its values come from files, and go into one. */
  files?: TreatmentFiles
  /** Values that show what it does, where those that a new one begins with do not. */
  shown?: Readonly<Record<string, number | readonly number[] | string | readonly (readonly [number, number])[]>>
  /** Which of its values at their neutral make it do nothing; all that have one where it says nothing. */
  neutral?: readonly string[]
  /** Whether it does nothing all the same. */
  idle?(values: never): boolean
  /** Values that a click in the picture gives: what it is asked for, and what comes of it. */
  takes?: readonly Take[]
  /** Its values that are distances along the view, from the nearest on. */
  metres?: readonly string[]
  /** What of the shot's distances it leaves as it is: shown where those are, and dragged there. */
  zone?: Zone
  /** Values that make the picture that comes to it like another. */
  likened?(own: Likeness, other: Likeness): Record<string, EntryValue>
  /** That is measured pixel by pixel of the full frame: a part of it does, but no smaller copy. */
  likenedBy?: 'grain'
  /** The passes that it is made of at such values, by their ids; without them it does without. */
  needs?(values: Readonly<Record<string, unknown>>): readonly string[]
  /** What it goes by without them, where that is something. */
  without?: string
  /** It is lines of its own, laid as one. */
  lined?: true
  /**
   * Its slip says what feeds it, not where it is seen, after that word: `plan` is given the matte and sees to it. The
   * strength is seen to as with all others.
   */
  fed?: 'from' | 'round' | 'where' | 'by'
  /** It takes grain out, which a line further on may lay back. */
  takesGrain?: true
  /** Its result at a pixel depends on more than the colour there. */
  beside?: true
  /** It is made of a colour table or a small picture of a file, which the line holds. */
  tabled?: 'colours' | 'picture'
  /** Only where another value is that. */
  tabledWhere?: { name: string; is: string }
  /** On the picture, where its values say places. */
  handles?: HandlesOf
  /** A colour of its own that the scene's lamps may give. */
  offersLight?: string
  /**
   * Its values that part the light, in stops from middle grey: what is below the first, above the second, and the stops
   * over which each fades. An instrument shows them where the light is.
   */
  borders?: { low: string; high: string; soft: string }
  /** What it reads beside the colour. */
  reads?: readonly ('depth' | 'frames' | 'motion')[]
  /** How it brings the picture to other places: laid whole it is one with what does so before it. */
  shape?(input: TreatmentInput, values: never): Shaping
  /** The picture treated; lengths are in pixels of the size that is worked at. */
  plan(input: TreatmentInput, values: never): Node
}

/** A colour table of a file, and a name that is its alone. */
export interface Table {
  lut: Lut
  key: string
}
/** A small picture of a file, and a name that is its alone. */
export type NamedPicture = SmallPicture & { key: string }
export interface TreatmentInput extends Picture {
  /** How much of it, and where: a treatment of single pixels sees to both itself (pointNode); of all others it is seen to. */
  strength: number
  matte?: Node
  /** Pixels of what is worked at: of the frame, over what that is shrunk by. */
  width: number
  height: number
  /** What the frame is shrunk by. */
  shrink: number
  frame: number
  /** Of the shot, at the frame, as it sees all that is worked at. */
  camera: () => Camera
  /** Lamps that light the shot's scene, as that camera sees them. Throws StillPacked. */
  lamps?: (() => readonly SeenLamp[]) | undefined
  /** The light of the shot's environment, where it has one. Throws StillPacked. */
  surroundings?: (() => Surroundings | undefined) | undefined
  /** The picture with the line's own lines laid on it. Throws StillPacked. */
  lines?: (() => Node) | undefined
  /** A pass by its id; undefined where there is none. Throws StillPacked. */
  pass?: ((id: string) => Node | undefined) | undefined
  /** The line's own colour table. Throws StillPacked. */
  table?: (() => Table | undefined) | undefined
  /** The line's own small picture. Throws StillPacked. */
  small?: (() => NamedPicture | undefined) | undefined
  /** The same picture, before this treatment, at another frame; held to the frames of the shot. */
  at(frame: number): Picture
}

/** Whether at such values it asks for a colour table or a small picture. */
export const asksTable = ({ tabled, tabledWhere }: Treatment, values: Readonly<Record<string, unknown>>): boolean =>
  !!tabled && (!tabledWhere || values[tabledWhere.name] === tabledWhere.is)

/** Says what a treatment is, its values typed by what it declares. */
export const treatment = <const F extends EntryFields>(
  declared: Omit<Treatment, 'values' | 'plan' | 'idle'> & {
    values: F
    plan(input: TreatmentInput, values: ValuesAt<F>): Node
    idle?(values: ValuesAt<F>): boolean
  },
): Treatment => declared

/** Whether a node has seen to strength and matte itself: a treatment may end in a formula that is laid on all of it. */
export const isPoint = (node: Node, { strength, matte }: Pick<TreatmentInput, 'strength' | 'matte'>): boolean =>
  node.by === 'kernel' &&
  isPointKernel(node.kernel) &&
  node.given['strength'] === strength &&
  (!matte || node.inputs.includes(matte))
