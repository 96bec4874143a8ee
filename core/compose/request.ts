// What is asked of a shot.
import { sized, type Size } from '../plan/size'
import type { ShotDocument, Slip } from '../shot/document'
import { workingFrame } from '../shot/lens'

/** What a picture is cut out over, to be looked at. */
export const GROUNDS = ['grey', 'black', 'white', 'checker'] as const
export type Ground = (typeof GROUNDS)[number]

export type Show =
  | { kind: 'finish' }
  | { kind: 'build' }
  | { kind: 'plate'; /** Without the bend of its lens, as one works on it. */ straight?: boolean }
  | { kind: 'pass'; id: string; near?: number; far?: number }
  | { kind: 'comes'; /** The picture as it comes to this line. */ line: string }
  | {
      kind: 'matte'
      matte: Slip
      /** The line that it is of, for one made of the picture there. */ line?: string
      /** As grey, as a veil over the picture, its outline on it, or the picture cut out over a ground. */
      as?: 'grey' | 'veil' | 'outline' | 'cut out'
      over?: Ground
      /** The layer whose render knows the names. */ of?: string
    }

export interface Without {
  id?: string
  treatments?: boolean
  clean?: boolean
}

export interface Request {
  document: ShotDocument
  frame: number
  /** 1 full size, 2 half, 4 a quarter. */
  shrink: 1 | 2 | 4
  show: Show
  /** For playing: clips by their small pictures where they have them. */
  small?: boolean
  /** Left out for comparison: a treatment or layer by id, all treatments, or that noise is taken out. */
  without?: Without
  /** Only these layers, with what they are in and what is in them; all where none of them is there. */
  only?: readonly string[]
}

/** The frame as it is sent. */
export const frameSize = ({ document, shrink }: Pick<Request, 'document' | 'shrink'>): Size =>
  sized({ ...document.frame, left: 0, top: 0 }, shrink)
/** The straight frame on which the build works: with room round it for what the lens will bend in. */
export const workSize = ({ document, shrink }: Pick<Request, 'document' | 'shrink'>): Size =>
  sized(workingFrame(document), shrink)
