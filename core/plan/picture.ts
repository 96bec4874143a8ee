// A picture with how far away what it shows is: what layers give, what is composed, and what treatments get.
import { kernelNode, type Node } from './node'
import type { Box } from '../engine/box'
import { Clear, DepthOver, Fill, Mix, MotionOver, ShareOver } from '../../kernels/records'

/** Depth written where there is no surface: finite, so that arithmetic on it stays finite. */
export const NO_DEPTH = 1e10
/** What is said of a place by its metres, one float a pixel: a share, a matte. */
export type ByDepth = (metres: Node) => Node
export interface Picture {
  /** Premultiplied colour; alpha is what of a pixel is covered. */
  colour: Node
  /** Metres along the view axis of what covers most of a pixel; NO_DEPTH where nothing is known to stand. */
  depth: () => Node
  /**
   * What is said by distance, to the edge: of each thing that a pixel shows as much as that covers. Made only where it
   * is asked for. parted: of the things of one render too, by what each covers; else those are told by what covers most.
   */
  byDepth: (say: ByDepth, parted?: boolean) => Node
  /**
   * Where what a pixel shows goes in a frame, and whence it came (x, y forward, x, y back, in pixels, right and down); left
   * out where nothing of it is known to move.
   */
  motion?: (() => Node) | undefined
  /** Light of it that is not seen where its surfaces stand; left out where none is known of. Throws StillPacked. */
  beyond?: (() => Beyond) | undefined
  /** What its colour was before it was brought to other places, and how: what does so again takes it from there. */
  shaped?: Shaped | undefined
  /** What treatments took out of it as its grain, one after another; of a picture brought to other places nothing is left. */
  grain?: readonly { before: Node; after: Node }[] | undefined
}

/** How a surface shows what stands elsewhere: through it, or mirrored. */
export const SHOWS = ['through', 'mirrored'] as const
/** Light seen so: how much it is of each channel, and how far away, surfaces that show nothing else being where they are. */
export interface SeenBeyond extends Pick<Picture, 'depth' | 'byDepth'> {
  share: Node
}
export type Beyond = Partial<Record<(typeof SHOWS)[number], SeenBeyond>>

export const FILTERS = ['sharp', 'soft', 'straight'] as const
export type Filter = (typeof FILTERS)[number]
/** How a picture is brought to other places (shaped.ts). */
export interface Shaping {
  /** Places of the result changed to places of what comes to it. */
  alter: (places: Node) => Node
  /** What it does at a place is said by the place alone: what comes after it may be one with it. */
  pure: boolean
  filter: Filter
  /** What comes to it goes on beyond its edge: no place lies outside. */
  goesOn: boolean
  /** The same a frame on and a frame ago, where it is another then. */
  moving?: { next: Shaping; before: Shaping } | undefined
}
/** How a colour was made by shapings alone, the first first. */
export interface Shaped {
  /** Of any other colour it says nothing. */
  made: Node
  from: Picture
  by: readonly Shaping[]
}

/** What is known of the things that a picture shows. */
export type Standing = Pick<Picture, 'depth' | 'byDepth' | 'motion' | 'beyond'>

/** The same distance all over. */
export const atDistance = (metres: number, window: Box): Standing => {
  const depth = (): Node => kernelNode(Fill, { value: metres }, { window })
  return { depth, byDepth: say => say(depth()) }
}

/** Where what is laid on has no pixels all stays as it is. */
export const WHERE_IT_IS = { where: 'source', elsewhere: 'backdrop' } as const
/** A picture over another whose distances it covers. */
export function coveredBy(backdrop: Picture, source: Picture, opacity: number): Standing {
  const { window } = backdrop.colour
  const still = (): Node => kernelNode(Clear, {}, { window })
  return {
    motion:
      (backdrop.motion ?? source.motion) &&
      (() =>
        kernelNode(
          MotionOver,
          {
            backdrop: (backdrop.motion ?? still)(),
            below: backdrop.colour,
            source: source.colour,
            motion: (source.motion ?? still)(),
            opacity,
          },
          { window },
        )),
    depth: () =>
      kernelNode(
        DepthOver,
        { backdrop: backdrop.depth(), below: backdrop.colour, source: source.colour, depth: source.depth(), opacity },
        { window, only: WHERE_IT_IS },
      ),
    byDepth: (say, parted) =>
      shareOver(backdrop, source, opacity, backdrop.byDepth(say, parted), source.byDepth(say, parted)),
  }
}

/** What is said of both, each counted by as much as one sees of it. */
export const shareOver = (backdrop: Picture, source: Picture, opacity: number, below: Node, above: Node): Node =>
  kernelNode(
    ShareOver,
    { backdrop: below, below: backdrop.colour, source: above, colour: source.colour, opacity },
    { window: backdrop.colour.window, only: { where: 'colour', elsewhere: 'backdrop' } },
  )

/** A picture multiplied by a matte, its alpha too. */
export const cutTo = (picture: Node, matte: Node): Node =>
  kernelNode(
    Mix,
    { first: kernelNode(Clear, {}, { window: picture.window }), second: picture, matte, share: 1 },
    { window: picture.window },
  )
