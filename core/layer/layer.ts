// What a kind of layer declares. Interface, documents, validation, command line and help are made from it.
import { value } from '../declare/field'
import type { EntryFields, ValuesAt } from '../declare/values'
import { boxOfSize, type Size } from '../plan/size'
import { kernelNode, type Node } from '../plan/node'
import type { Picture } from '../plan/picture'
import type { FrameHandles } from '../matte/handles'
import type { PassNodes } from '../render/passnodes'
import { NO_DEPTH } from '../render/passes'
import { DepthRamp, Fill } from '../../kernels/records'
import type { Typeface } from '../formats/font/font'
import type { Camera, Light } from '../scene/scene'
import type { Surroundings } from '../scene/surroundings'
import type { DeskAt } from './desk'

/**
 * Where a layer stands when nobody has put it anywhere: behind all; at a distance of its own, always; about a distance of
 * its own, always, with parts nearer and farther than that; by the depth of what it shows; before all.
 */
export type Stands = 'far' | 'at' | 'amid' | 'deep' | 'near'
/** Whether it always says itself where it stands. */
export const standsByItself = (stands: Stands): boolean => stands === 'at' || stands === 'amid'
/**
 * What a layer holds beside its values: a picture of its own (a plate's may be the shot's), passes (its own, or the
 * shot's), words, a lamp that lights a render, other layers, layers that stick to what a render shows, a pass of a
 * render, or nothing. What holds a pass lays it in a way of its own; all others are
 * laid over what is behind them, by a blending mode and opacity.
 */
export type Holds =
  | 'plate'
  | 'picture'
  | 'cut-out'
  | 'element'
  | 'words'
  | 'lamp'
  | 'lit'
  | 'passes'
  | 'layers'
  | 'stuck'
  | 'pass'
  | 'nothing'

/** What a layer shows, with where that stands. */
export interface Shown extends Picture {
  /**
   * How much of what covers each pixel is nearer than so many metres, or than what stands at each pixel. ahead: things of
   * those names count as nearer wherever they are.
   */
  nearer: (than: number | Node, ahead?: readonly string[]) => Node
  /** Metres of what covers a pixel most, up to its last trace. */
  edge: () => Node
  /** Whether a pixel may show things at several distances, one through the other; else one, but for the borders of things. */
  stacked: boolean
  /** It goes over from one distance to another, as air does: a part of it has but a part of that. */
  thick?: boolean
  /** All of it is at one distance, or in one plane: at each pixel that is known for all that covers it. */
  sheet?: boolean
  /** It lies on the surfaces of the render that it is of: before them, wherever they are, and it cuts nothing of them. */
  onRender?: boolean
  /** Nothing of it is nearer or farther than this. */
  span: { near: number; far: number }
  /** How much of the light of what is behind it falls on it, one float a pixel. */
  spill?: Node
}

/** A frame, and what the shot's camera sees then. */
export interface Sight {
  frame: number
  camera: () => Camera
}
/** What the hand takes hold of on the picture, of a layer's own values. picture: its own, at full size. */
export type LayerHandles = (
  values: Readonly<Record<string, unknown>>,
  by: {
    camera: Camera
    frame: { width: number; height: number }
    picture: { width: number; height: number; pixelAspect: number } | undefined
  },
) => FrameHandles | undefined
/** How a kind says where it stands that has no distance of its own. */
export interface Standing {
  /** Metres along the view axis; 0 and less behind the camera. */
  metres(values: never, camera: Camera): number
  /** The values that change where it is brought to such a distance, on the way that the camera sees it; none where it cannot. */
  brought(values: never, camera: Camera, metres: number): Record<string, number> | undefined
}
/**
 * What a layer does to the picture that it stands in, beside being seen: its shadow, what mirrors it. Laid when all of
 * that is made.
 */
export interface Cast {
  /** What becomes of that picture. */
  lay(picture: Shown): Shown
}

/** The slips of a layer that say where what it casts falls: its shadow; what mirrors it; that of the layer itself. */
export const CAST_SLIPS = ['ground', 'wet', 'matte'] as const
export type CastSlip = (typeof CAST_SLIPS)[number]
/** What a layer's casts are laid with. */
export interface CastBy {
  opacity: number
  /** Blending mode. */
  mode: string
  /** As the layer's lines make a picture. */
  lined: (picture: Picture) => Node
  /** Where of what is made it falls by one of its slips. Throws StillPacked. */
  where: (which: CastSlip, picture: Picture) => Node | 'everywhere' | undefined
}

export interface LayerInput {
  frame: number
  /** Frames of the shot in a second. */
  rate: number
  size: Size
  /** Of the shot, of all that is worked on, at the frame or another. */
  camera: (frame?: number) => Camera
  /** What lights the shot's scene at the frame: lamps, suns, things that shine. Throws StillPacked. */
  lights: () => readonly Light[]
  /** What comes of the shot's environment; undefined where it has none. Throws StillPacked. */
  surroundings: () => Surroundings | undefined
  /** The lamp that it is lit by, by its name, where one is chosen. */
  light?: string | undefined
  /** The layer's values at another frame. */
  valuesAt: (frame: number) => Record<string, unknown>
  /** Of the render that it is, or is of; undefined where there are none. Throws StillPacked. */
  passes: PassNodes | undefined
  /** The same at another frame. Throws StillPacked. */
  passesAt: (frame: number) => PassNodes | undefined
  /** How much of the noise of that render's light is taken out, 0..1. */
  clean: number
  /** The gains of a render's light. */
  desk: DeskAt
  /** How dark and of which colour the shadow on a thing is. */
  catcher: (name: string) => { density: number; colour: readonly [number, number, number] }
  /**
   * Its own picture at full size, at the frame or another (parts of frames too), and how wide its pixels are; undefined
   * where it shows nothing. Throws StillPacked.
   */
  picture: (frame?: number) => { node: Node; width: number; height: number; pixelAspect: number } | undefined
  /** The frame of the shot at which a clip that it shows begins; 1 for a still. */
  begins: number
  /** Its words, and the fonts that they are set in; undefined where it has none. key: what they depend on. Throws StillPacked. */
  words: () => { text: string; fonts: readonly Typeface[]; key: string } | undefined
  /** Its picture as a plate of the shot, without the bend of the lens. Throws StillPacked. */
  plate: () => Node
  /** What the layers within it make together. Throws StillPacked. */
  members: () => Shown
}

export interface LayerKind {
  id: string
  label: string
  help: string
  /** Words with {value} in their places. */
  sentence: string
  values: EntryFields
  stands: Stands
  holds: Holds
  /** How a new one begins, where that is not as any other. */
  begins?: Record<string, unknown>
  /** The pass with which it comes by itself, when a render has that for the first time. */
  pass?: string
  /** It may be said to be behind things by their names: it is a sheet. */
  behindNames?: true
  /** It does something to all of the picture: it is nowhere, and is put nowhere. */
  everywhere?: boolean
  /** Names of things count as shares of what covers a pixel (mattes of names on its lines). */
  relative?: boolean
  /** What it is cut to is said of its own picture, before that is placed. */
  cutFirst?: boolean
  /** Where it stands, where no value says that. */
  standing?: Standing
  /** Its values that are distances along the view, from the nearest on; the one by which it is thick about where it stands. */
  metres?: readonly string[]
  thickness?: string
  /** What the hand takes hold of on the picture. */
  handles?: LayerHandles
  /** What it shows, without its lines; undefined where that is nothing. Throws StillPacked. */
  plan(input: LayerInput, values: never): Shown | undefined
  /** What becomes of what is behind it, where it holds a pass. */
  lay?(input: LayerInput, backdrop: Node, shown: Node, values: never): Node
  /** What it casts. Throws StillPacked. */
  casts?(input: LayerInput, values: never, by: CastBy): Cast[]
}

/** Says what a kind of layer is, its values typed by what it declares. */
export const layerKind = <
  const I extends string,
  const F extends EntryFields,
  const S extends Stands,
  const H extends Holds,
>(
  declared: Omit<LayerKind, 'id' | 'values' | 'stands' | 'holds' | 'plan' | 'lay' | 'casts' | 'standing'> & {
    id: I
    values: F
    stands: S
    holds: H
    plan(input: LayerInput, values: ValuesAt<F>): Shown | undefined
    lay?(input: LayerInput, backdrop: Node, shown: Node, values: ValuesAt<F>): Node
    casts?(input: LayerInput, values: ValuesAt<F>, by: CastBy): Cast[]
    standing?: {
      metres(values: ValuesAt<F>, camera: Camera): number
      brought(values: ValuesAt<F>, camera: Camera, metres: number): Record<string, number> | undefined
    }
  },
): Omit<LayerKind, 'id' | 'values' | 'stands' | 'holds'> & { id: I; values: F; stands: S; holds: H } => declared

/** A share with the step of a fader. */
export const share = (label: string, help: string, neutral: number, high = 1): ReturnType<typeof value> =>
  value(0, high, { label, help, step: 0.004, neutral })
/** Where a layer stands. */
export const DISTANCE = value(0.001, 1e6, {
  label: 'distance',
  help: 'From the camera; what is nearer covers it.',
  step: 0.02,
  unit: 'm',
  first: 8,
})

/** Farther than anything, metres. */
export const FAR = 1e30

/** Shown at one distance as a whole; NO_DEPTH: behind everything. */
export function flat(colour: Node, metres: number, size: Size): Shown {
  const window = boxOfSize(size)
  const fill = (number: number): Node => kernelNode(Fill, { value: number }, { window })
  const depth = (): Node => fill(metres)
  const at = metres >= NO_DEPTH ? FAR : metres
  return {
    colour,
    depth,
    byDepth: say => say(depth()),
    edge: depth,
    nearer: than =>
      typeof than === 'number'
        ? fill(at < than ? 1 : 0)
        : // A step: all of it, wherever what stands there is farther
          kernelNode(DepthRamp, { depth: than, near: at, scale: STEP }, { window }),
    ...{ stacked: false, sheet: true },
    span: { near: at, far: at },
  }
}
const STEP = 1e30
