// What a part of the shot document may be. Each thing of the document is declared once with these (one file a kind beside
// this); its TypeScript type, its checks, its labels and ranges on screen, and the walks over references follow from it.
import type { Animatable } from '../time/curve'

/** What is said about a field where one meets it. */
export interface About {
  label?: string
  help?: string
  /** It counts only where another value beside it is one of those. */
  with?: { readonly name: string; readonly is: readonly string[] }
}
/** The type a field stands for; nothing is ever stored in `sample`. */
interface Typed<T> {
  readonly sample?: T
}
/** What a name is of, for the walks that follow it. */
export type Reference = 'object' | 'layer' | 'matte'

export interface NumberField extends About {
  kind: 'number'
  /** May hold keys over frames. */
  animated: boolean
  /** Has no fraction. */
  whole: boolean
  low: number
  high: number
  /** How far the hand goes, where that is less. */
  hand?: readonly [number, number]
  unit: string
  /** What a drag of one pixel adds. */
  step: number
  digits: number
  /** The value at which it does nothing. */
  neutral?: number
  /** What a new one begins with, where that is not the neutral value. */
  first?: number
  /** In pixels of the frame: what becomes of it when the frame's size changes. */
  pixels?: 'across' | 'down' | 'size'
}
export interface FlagField extends About {
  kind: 'flag'
}
export interface ChoiceField extends About {
  kind: 'choice'
  choices: readonly (string | number)[]
  /** The one with which it does nothing. */
  neutral?: string
  /** What a new one begins with, where that is neither the neutral one nor the first of them. */
  first?: string
}
export interface TextField extends About {
  kind: 'text'
  least: number
  most: number
  refers?: Reference
  /** Only where the thing that it is in says so. */
  when?: (owner: never) => boolean
}
/** So many numbers in a row. */
export interface NumbersField extends About {
  kind: 'numbers'
  count: number
  low: number
  high: number
  /** What the first goes from and to, where it is not that. */
  across?: readonly [low: number, high: number]
  /** The first two are a place of the frame, in its pixels. */
  pixels?: 'place'
}
/** Numbers in a row of which each may hold keys. */
export interface ValuesField extends About {
  kind: 'values'
  parts: readonly string[]
  low: number
  high: number
  /** How far the hand goes. */
  hand: readonly [number, number]
  /** What a drag of one pixel adds. */
  step: number
  digits: number
  neutral?: number
  /** What a new one begins with. */
  first?: readonly number[]
  /** They are a colour: scene-linear red, green and blue. */
  colour?: true
  /** Too many for a sentence: each is taken hold of on the picture. */
  onPicture?: true
}
export interface BlobField extends About {
  kind: 'blob'
}
/** A place among neighbours, as a text that sorts. */
export interface OrderField extends About {
  kind: 'order'
}
/** A list without names, changed as a whole. */
export interface ListField extends About {
  kind: 'list'
  of: Field
  most: number
  /** What a new one holds. */
  first?: readonly (readonly number[])[]
  /** Of points of a curve. */
  bend?: Bend
}
/** What a curve goes over, and what it says of that. */
export interface Bend {
  across: BendSide
  up: BendSide
  /** Where it leaves things as they are: at the place itself, or at that value everywhere. */
  rest: 'same' | number
  /** It closes upon itself: its end is its beginning. */
  round?: true
}
export interface BendSide {
  low: number
  high: number
  /** What of it an editor shows. */
  seen: readonly [number, number]
  /** What it is, in a word. */
  label: string
  unit?: string
  digits?: number
}
/** Things by their id, each with its place in the order. */
export interface RowsField extends About {
  kind: 'rows'
  of: ThingField | EitherField
  most: number
}
/** Things or values by names that somebody gave. */
export interface NamedField extends About {
  kind: 'named'
  of: Field
  most: number
  title?: string
  /** What the names are of. */
  refers?: Reference
  when?: undefined
}
export interface ThingField extends About {
  kind: 'thing'
  /** What it is called where its values are listed. */
  title?: string | ((thing: never) => string)
  fields: Fields
  /** What the fields alone cannot say, as sentences. */
  faults?: (thing: never) => string[]
}
/** One of several things, told apart by one of their fields. */
export interface EitherField extends About {
  kind: 'either'
  by: string
  kinds: Readonly<Record<string, ThingField>>
}
/** Values whose fields another declaration says, by the thing that they are in (the values of a treatment). */
export interface ValuesOfField extends About {
  kind: 'values of'
  fieldsOf: (owner: never) => Fields
}

export type Field = (
  | NumberField
  | FlagField
  | ChoiceField
  | TextField
  | NumbersField
  | ValuesField
  | BlobField
  | OrderField
  | ListField
  | RowsField
  | NamedField
  | ThingField
  | EitherField
  | ValuesOfField
) & { optional?: true; nullable?: true }
export type Fields = Readonly<Record<string, Field>>

type Optional<F extends Fields> = { [K in keyof F]: F[K] extends { optional: true } ? K : never }[keyof F]
type Plain<T> = { [K in keyof T]: T[K] } & {}
/** The type of a thing of those fields. */
export type ThingOf<F extends Fields> = Plain<
  { [K in Exclude<keyof F, Optional<F>>]: ValueOf<F[K]> } & { [K in Optional<F>]?: ValueOf<F[K]> }
>
/** The type that a field stands for. */
export type ValueOf<F> = F extends Typed<infer T> ? (F extends { nullable: true } ? T | null : T) : never

type NumberAbout = About &
  Partial<Pick<NumberField, 'hand' | 'unit' | 'step' | 'digits' | 'neutral' | 'first' | 'pixels'>>
const numberField =
  <T>(animated: boolean, whole: boolean) =>
  (low: number, high: number, about: NumberAbout = {}): NumberField & Typed<T> => ({
    kind: 'number',
    animated,
    whole,
    low,
    high,
    unit: '',
    step: whole ? 1 : 0.01,
    digits: whole ? 0 : 2,
    ...about,
  })
/** A number that may hold keys. `value(0, 1, { label: 'opacity', neutral: 1 })` */
export const value = numberField<Animatable>(true, false)
/** A number that stays. */
export const number = numberField<number>(false, false)
export const whole = numberField<number>(false, true)
/** Reach of what has no bound of its own. */
export const ANY = 1e6
export const anyValue = (about: NumberAbout = {}): NumberField & Typed<Animatable> => value(-ANY, ANY, about)

export const flag = (about: About = {}): FlagField & Typed<boolean> => ({ kind: 'flag', ...about })
export const choice = <const C extends readonly (string | number)[]>(
  choices: C,
  about: About & Pick<ChoiceField, 'neutral' | 'first'> = {},
): ChoiceField & Typed<C[number]> => ({ kind: 'choice', choices, ...about })
export const text = (
  least: number,
  most: number,
  about: About & Pick<TextField, 'refers' | 'when'> = {},
): TextField & Typed<string> => ({ kind: 'text', least, most, ...about })
export const name = (about: About = {}): TextField & Typed<string> => text(1, 200, { label: 'name', ...about })
export const objectName = (): TextField & Typed<string> => text(1, 300, { refers: 'object' })

export const place = (): NumbersField & Typed<[number, number]> => ({
  kind: 'numbers',
  count: 2,
  low: -ANY,
  high: ANY,
  pixels: 'place',
})
const numbersField =
  <T>(count: number) =>
  (low = -ANY, high = ANY, about: About & Pick<NumbersField, 'pixels' | 'across'> = {}): NumbersField & Typed<T> => ({
    kind: 'numbers',
    count,
    low,
    high,
    ...about,
  })
export const pair = numbersField<[number, number]>(2)
export const three = numbersField<[number, number, number]>(3)
export const matrix = numbersField<number[]>(16)
/** The number of something, and how far it is moved. */
export const pull = numbersField<number[]>(4)
type ValuesAbout = About & Partial<Pick<ValuesField, 'hand' | 'step' | 'digits' | 'neutral' | 'first'>>
/** As many as are named, each of which may hold keys. */
export const rowValues = (
  parts: readonly string[],
  about: ValuesAbout & Partial<Pick<ValuesField, 'low' | 'high' | 'onPicture'>> = {},
): ValuesField & Typed<Animatable[]> => ({
  kind: 'values',
  parts,
  low: -ANY,
  high: ANY,
  hand: [-ANY, ANY],
  step: 0.01,
  digits: 2,
  ...about,
})
/** Three of them. */
export const threeValues = (
  parts: readonly [string, string, string],
  about: ValuesAbout = {},
): ValuesField & Typed<[Animatable, Animatable, Animatable]> =>
  rowValues(parts, about) as ReturnType<typeof threeValues>
/** Linear Rec.709. A key may swing past what the hand gives: who reads it holds it back. */
export const colourValues = (of = '', about: ValuesAbout = {}): ReturnType<typeof threeValues> => ({
  ...threeValues([`${of}red`, `${of}green`, `${of}blue`], { hand: [0, 10], step: 0.002, ...about }),
  colour: true,
})
/** SHA-256 of a stored file. */
export const blob = (): BlobField & Typed<string> => ({ kind: 'blob' })

export const list = <F extends Field & Typed<unknown>>(of: F, most: number): ListField & Typed<ValueOf<F>[]> => ({
  kind: 'list',
  of,
  most,
})
/** Points of a curve: pairs of a place and its value. */
export const bendPoints = (
  bend: Bend,
  first: readonly (readonly [number, number])[],
  about: About = {},
): ListField & Typed<[number, number][]> => ({
  ...list(pair(bend.up.low, bend.up.high, { across: [bend.across.low, bend.across.high] }), 64),
  ...{ bend, first },
  ...about,
})
/** Scene-linear colours. */
export const colourList = (most: number, about: About): ListField & Typed<[number, number, number][]> => ({
  ...list(three(-ANY, ANY), most),
  ...{ first: [], ...about },
})
/** What every row has beside its own fields (ROW_FIELDS). */
export interface Row {
  id: string
  /** Its place among its neighbours, as a text that sorts (rows.ts). */
  order: string
}
export const ROW_FIELDS: Fields = { id: text(1, 40), order: { kind: 'order' } }
export const rows = <F extends (ThingField | EitherField) & Typed<unknown>>(
  of: F,
  most: number,
): RowsField & Typed<Record<string, ValueOf<F> & Row>> => ({ kind: 'rows', of, most })
export const named = <F extends Field & Typed<unknown>>(
  of: F,
  most: number,
  refers?: Reference,
): NamedField & Typed<Record<string, ValueOf<F>>> => ({ kind: 'named', of, most, refers })

export const thing = <const F extends Fields>(
  fields: F,
  about: About & { title?: string | ((thing: ThingOf<F>) => string); faults?: (thing: ThingOf<F>) => string[] } = {},
): Omit<ThingField, 'fields'> & { fields: F } & Typed<ThingOf<F>> => ({ kind: 'thing', fields, ...about })
export const either = <const B extends string, const K extends Record<string, ThingField & Typed<unknown>>>(
  by: B,
  kinds: K,
): Omit<EitherField, 'kinds'> & { kinds: K } & Typed<{ [N in keyof K]: ValueOf<K[N]> }[keyof K]> => ({
  kind: 'either',
  by,
  kinds,
})
/** A value of a thing whose fields another declaration says: a number, numbers in a row, one of some words, or points. */
export type EntryValue = Animatable | Animatable[] | string | number[][]
/** Values whose fields depend on the thing that they are in. */
export const valuesOf = <O>(fieldsOf: (owner: O) => Fields): ValuesOfField & Typed<Record<string, EntryValue>> => ({
  kind: 'values of',
  fieldsOf,
})

/** Says what a thing is called where its values are listed. */
export const titled = <F extends ThingField | NamedField>(title: string, field: F): F => ({ ...field, title })

export const optional = <F extends Field>(field: F): F & { optional: true } => ({ ...field, optional: true })
export const orNull = <F extends Field>(field: F): F & { nullable: true } => ({ ...field, nullable: true })
