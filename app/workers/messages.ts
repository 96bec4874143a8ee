// What the page and the engine worker say to each other.
import type { NamesFile } from '../../core/formats/cryptomatte/named'
import type { PictureFacts } from '../../core/formats/picture/describe'
import type { AlphaKind } from '../../core/formats/picture/picture'
import type { Show, Without } from '../../core/compose/request'
import type { contentOf } from '../../core/render/openpasses'
import type { PassReading } from '../../core/shot/document'
import type { NamesOf, Seen } from '../../core/render/passes'
import type { Part, Probe } from '../../core/compose/probe'
import type { ShotDocument } from '../../core/shot/document'
import type { SnapResult } from '../../core/match/snap'
import type { Role } from '../../core/scene/scene'
import type { Box } from '../../core/engine/box'
import type { Plane } from '../../core/measure/light'
import type { Step } from '../../core/shot/patch'

/** A document as what differs from the one that was sent before. */
export interface Told {
  steps: Step[]
}
export interface PictureOrder {
  document: ShotDocument
  frame: number
  shrink: 1 | 2 | 4
  show: Show
  without?: Without
  only?: readonly string[]
  /** The open layer: its render knows what things are called. */
  layer?: string
  /** What stands there is read of that layer's own depth, where it is a plate that has one. */
  ownDepth?: boolean
  small?: boolean
  stops: number
  channel: number
  view?: string
  /** Which of MARKS are marked on it. */
  marks?: readonly string[]
  /** Only a part of the frame, in its pixels at that size. */
  area?: Box
  /** Not worth finishing once the page has turned to something later. */
  turn?: number
}
export interface Picture {
  width: number
  height: number
  codes: Uint8ClampedArray<ArrayBuffer>
  /** Where it lies in the whole frame at that size, and how large that is; left out: it is the whole. */
  part?: { left: number; top: number; width: number; height: number }
  milliseconds: number
}
export interface SceneInfo {
  objects: {
    name: string
    role: Role
    hidden: boolean
    absent: boolean
    added: boolean
    ofPlate: boolean
    /** It gives light of its own. */
    shines: boolean
    triangles: number
    /** Object to world. */
    matrix: number[]
    /** Corners of the box in its own axes, in the world: x changes first, then y, then z. */
    corners: [number, number, number][]
    position: [number, number, number]
    rotation: [number, number, number]
    /** World box with the document's placement at the frame. */
    low: [number, number, number]
    high: [number, number, number]
  }[]
  /** Names that the file gives its objects. */
  fileNames: string[]
  lights: string[]
  /** Things that shine. */
  emitters: string[]
  cameras: string[]
  materials: string[]
  notes: string[]
}
/** Fold edges of an object: six metres an edge. */
export interface ObjectEdges {
  name: string
  lines: Float32Array
}
export interface PixelReading extends Probe {
  rgba: [number, number, number, number]
  /** How much the matte that is looked at holds there. */
  held?: number
}
/** A place of the plate, how much light the thing there reflects (0..1), and the unit normal that it faces. */
export interface GreyPlace {
  u: number
  v: number
  reflects: number
  normal: [number, number, number]
}
/** How far the preview is, and its picture where a new one is worth showing. */
export interface ScenePreview {
  samples: number
  picture?: PreviewPicture
}
/** width, height: of ids and depths; what is shown may have the plate's own size. */
export interface PreviewPicture {
  width: number
  height: number
  shown: Pick<Picture, 'width' | 'height' | 'codes'>
  ids: Uint32Array
  depth: Float32Array
  names: string[]
}

/** Lines laid on the edges under them; null where none stands out. */
export type SnappedLines = (SnapResult | null)[]

/** What a picture file is, and how it is most likely read. */
export interface PictureDescription {
  width: number
  height: number
  encoding: string
  reason: string
  alpha: AlphaKind
  facts: PictureFacts
  notes: string[]
}

/** What a file of passes holds, and of one from elsewhere how it is read. */
export type PassDescription = NonNullable<ReturnType<typeof contentOf>> & { reading?: PassReading }

export type EngineCall =
  | { call: 'describe'; file: File }
  | { call: 'describePasses'; file: File }
  | { call: 'theirs'; file: File }
  | { call: 'withNames'; file: File; names: readonly NamesFile[] }
  | { call: 'readSo'; file: File; reading: PassReading }
  | { call: 'plateDepth'; file: File }
  | { call: 'turn'; turn: SharedArrayBuffer }
  | { call: 'picture'; order: PictureOrder }
  | { call: 'within'; order: PictureOrder; part: Part; of: NamesOf; seen: Seen }
  | { call: 'values'; order: PictureOrder; places: readonly (readonly [u: number, v: number])[] }
  | {
      call: 'going'
      document: ShotDocument
      frame: number
      places: readonly (readonly [x: number, y: number])[]
      layer: string | undefined
    }
  | { call: 'read'; order: PictureOrder; u: number; v: number }
  | { call: 'measure'; order: PictureOrder; on: Plane }
  | { call: 'likeness'; order: PictureOrder; grain: boolean }
  | { call: 'fit'; document: ShotDocument; frame: number; layer: string }
  | { call: 'table'; document: ShotDocument; frame: number; title: string; encoding: string }
  | {
      call: 'spread'
      document: ShotDocument
      frame: number
      layer?: string
      bins: number
      near: number
      far: number
      names: readonly string[]
    }
  | { call: 'thingsSeen'; document: ShotDocument; frame: number; layer?: string }
  | { call: 'highlight'; document: ShotDocument; frame: number; names: string[]; seen: Seen; layer?: string }
  | { call: 'sceneInfo'; document: ShotDocument; frame: number }
  | { call: 'touching'; document: ShotDocument; frame: number; layer: string }
  | { call: 'fileCamera'; document: ShotDocument; name?: string }
  | { call: 'placeFile'; document: ShotDocument; frame: number }
  | { call: 'corners'; document: ShotDocument; frame: number; name: string }
  | { call: 'edges'; document: ShotDocument; frame: number; names: string[] }
  | { call: 'snap'; document: ShotDocument; frame: number; lines: { from: [number, number]; to: [number, number] }[] }
  | { call: 'track'; document: ShotDocument; blob: string }
  | { call: 'findSun'; document: ShotDocument }
  | { call: 'greyCard'; document: ShotDocument; frame: number; place: GreyPlace }
  | { call: 'mainLight'; document: ShotDocument }
  | { call: 'preview'; document: ShotDocument; frame: number; width: number; restart: boolean; plain: boolean }
