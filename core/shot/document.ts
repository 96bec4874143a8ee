// The shot document: everything that is decided about a shot. Versioned JSON; pixels are blobs named by their SHA-256.
import type { OutlineSettings } from '../render/outline'
import type { SampleLimits } from '../render/planes'
import { DEFAULT_PASSES, type Seen } from '../render/passes'
import type { PictureFacts } from '../formats/picture/describe'
import type { AlphaKind } from '../formats/picture/picture'
import type { Animatable } from '../time/curve'
import type { DrawnLine } from '../match/lines'
import type { Role } from '../scene/scene'
import type { StandIn } from '../scene/standin'
import type { Rate } from '../time/rate'
import type { ClipTiming } from '../time/retime'

export const DOCUMENT_VERSION = 1

/** A picture that moves: its blob is the list of its frames (clip.ts). */
export interface ClipUse {
  count: number
  /** As it is read; the file's own unless someone said otherwise. */
  rate: Rate
  timing: ClipTiming
  pixelAspect: Rate
  /** Number of the first frame as the files count. */
  first: number
  timecode?: string
  /** What was found about it: missing frames, fields, uneven times. */
  gaps: number
  /** The missing frames' numbers in words. */
  missing?: string
  interlaced?: boolean
  uneven?: boolean
  /** The video it was made from, to be read again in another way. */
  made?: BlobReference
}

export interface BlobReference {
  blob: string
  name: string
}
/** Where a scene file's origin stands in the shot, metres, and how many times its own size the whole of it is. */
export interface FilePlace {
  at: [number, number, number]
  times: number
}
export interface PictureReference extends BlobReference {
  encoding: string
  alpha: AlphaKind
  width: number
  height: number
  /** Why the encoding was guessed, until someone chose. */
  guessed?: string
  /** What the file is, from its content. */
  facts?: PictureFacts
  clip?: ClipUse
  /** Read through this .cube table, whose colours come out in the encoding. */
  lut?: BlobReference
}

export interface ObjectSettings {
  /** Metres; absent: as in the file. */
  position?: [Animatable, Animatable, Animatable]
  /** Degrees: heading, tilt, bank. */
  rotation?: [Animatable, Animatable, Animatable]
  scale?: Animatable
  role?: Role
  hidden?: boolean
  absent?: boolean
  /** Not moved by the hand. */
  locked?: boolean
  /** Name of the group that it is moved with. */
  group?: string
  /** A catcher or holdout whose colour comes from the plate, for reflections and bounce. */
  ofPlate?: boolean
  /** A catcher behind which things are still seen. */
  letsThrough?: boolean
  /** Its shadow is kept on its own. */
  ownShadow?: boolean
  /** Group that its own light counts in where light is told apart. */
  lightGroup?: string
  /** By occlusion: whether it darkens others, and is darkened; both unless said. */
  darkens?: boolean
  darkened?: boolean
  /** How much of what smooth wet ground would mirror of the objects this catcher mirrors, 0..1, and its roughness. */
  wet?: Animatable
  wetRoughness?: Animatable
  /** How much of the shadow on this catcher is laid on the plate; 1 as rendered. */
  shadowDensity?: Animatable
  /** Colour that this catcher's shadow is tinted with, linear Rec.709; 0 0 0 as rendered. */
  shadowColour?: [Animatable, Animatable, Animatable]
  /** Places of the object (in its own space) dragged to where they belong in the plate. */
  pins?: Pin[]
}
export interface Pin {
  id: string
  /** Metres in the object's own space. */
  local: [number, number, number]
  /** Pixels of the frame. */
  pixel: [number, number]
}

/** An object that is not in the file: a copy of one, or a stand-in for something in the plate. */
/** A stand-in whose sizes may change over time. */
export type AnimatedStandIn = Omit<StandIn, 'width' | 'height' | 'depth'> &
  Record<'width' | 'height' | 'depth', Animatable>
export type AddedObject = { name: string } & (
  | { kind: 'copy'; of: string }
  | ({
      kind: 'standin'
      /** Linear Rec.709 0..1 where it does not take its colour from the plate. */
      colour: [number, number, number]
      roughness: Animatable
    } & AnimatedStandIn)
)

/** A picture laid on an object, in the object's own space. */
export interface PrintSettings {
  id: string
  name: string
  on: string
  shown: boolean
  picture: PictureReference
  /** Along parallel lines, or from a point as a camera would throw it. */
  from: 'front' | 'camera'
  /** What throws it: place and attitude (looks along -Z, up is +Y) in the object's own space, column-major. */
  matrix: number[]
  /** Half width of the throw at one metre; only from a camera. */
  tangent: number
  /** Width on the object in metres (front), or as a share of the camera's view (camera). */
  size: Animatable
  /** Degrees, and shares of its width. */
  turn: Animatable
  shiftX: Animatable
  shiftY: Animatable
  opacity: Animatable
  instead: boolean
  roughness: Animatable | null
}

export interface CameraSettings {
  /** Millimetres. */
  focalLength: Animatable
  sensorWidth: Animatable
  /** Metres; y is the height above the ground. */
  x: Animatable
  y: Animatable
  z: Animatable
  /** Degrees. */
  heading: Animatable
  pitch: Animatable
  bank: Animatable
  /**
   * The optical centre off the middle of the frame: the view shifted, in half widths and half heights (right and up).
   */
  shiftX?: Animatable
  shiftY?: Animatable
}

export interface LightSettings {
  id: string
  name: string
  kind: LightKind
  /** Group that its light counts in where light is told apart; its own name when empty. */
  group?: string
  on: boolean
  /** Degrees: compass direction it comes from (0 = behind the camera's -Z), height above the horizon. */
  azimuth: Animatable
  elevation: Animatable
  kelvin: Animatable
  /** Thousandths of Duv off the locus: green above 0, magenta below. */
  tint?: Animatable
  /** Its temperature is that of a phase of daylight, else of a black body. */
  daylight?: boolean
  /** Sun: stops over 1 W/m2; others: stops over 1 W/(m2 sr) of their surface. */
  stops: Animatable
  /** What its strength is said in; absent: stops. */
  unit?: 'lumen' | 'watt'
  /** Lumen or watt that it gives off; a sun: lux or W/m2. */
  amount?: Animatable
  /** Sun: apparent diameter in degrees. */
  diameter: Animatable
  /** Metres; width is the diameter of round ones, height the length of a tube. */
  width: Animatable
  height: Animatable
  distance: Animatable
  /** Spot: full angle of its cone in degrees, and which share of it fades. */
  cone?: Animatable
  softness?: Animatable
  /** Where it points. */
  target: [Animatable, Animatable, Animatable]
  /** Object whose middle it points at, in place of the target. */
  aim?: string
}
export const LIGHT_KINDS = ['sun', 'box', 'disc', 'tube', 'ball', 'spot'] as const
export type LightKind = (typeof LIGHT_KINDS)[number]

/** Air with something in it: mist, smoke, water. */
export interface AirSettings {
  id: string
  name: string
  on: boolean
  /** Everywhere, in a box on the ground under its place, or as the body of a thing. */
  shape: 'space' | 'box' | 'thing'
  /** The thing by its name. */
  thing?: string
  x: Animatable
  y: Animatable
  z: Animatable
  width: Animatable
  height: Animatable
  depth: Animatable
  /** Metres after which half of the light is gone. */
  half: Animatable
  colour: [Animatable, Animatable, Animatable]
  /** -1 back, 0 all round, 1 on. */
  forward: Animatable
  noise: Animatable
  noiseSize: Animatable
  seed: number
  base: Animatable
  /** Metres over which it thins to a half with height; 0: not at all. */
  halfHeight: Animatable
}

export interface EnvironmentSettings extends PictureReference {
  turn: Animatable
  stops: Animatable
  seen: boolean
  tint?: Animatable
  /** The sun in it is taken out, to be a light of its own. */
  sunOut?: boolean
}

export interface MatteSettings {
  names: string[]
  of: 'objects' | 'materials'
  /** As they stand where it says nothing. */
  seen?: Seen
  invert: boolean
}
export interface TreatmentSettings {
  id: string
  kind: string
  on: boolean
  strength: Animatable
  matte: MatteSettings | null
  values: Record<string, Animatable>
}

export interface LayerBase {
  id: string
  name: string
  on: boolean
  opacity: Animatable
  mode: string
  treatments: TreatmentSettings[]
}
export interface PlateLayer extends LayerBase {
  kind: 'plate'
}
export interface RenderLayer extends LayerBase {
  kind: 'render'
  shadow: Animatable
  occlusion: Animatable
  /** How much of the noise is taken out of the light, 0..1. */
  clean?: Animatable
  /** How much of what wet ground mirrors is added to the plate. */
  wet?: Animatable
  /** How much of the air is laid over everything. */
  air?: Animatable
  /** The outline: how much of it is inked, in linear Rec.709, and how much of it is taken out of the objects. */
  ink?: { strength: Animatable; colour: [Animatable, Animatable, Animatable]; bite: Animatable }
}
export interface PictureLayer extends LayerBase {
  kind: 'picture'
  picture: PictureReference
  distance: Animatable
  /** Pixels of the full frame: middle of the picture. */
  x: Animatable
  y: Animatable
  /** Frame pixels to a picture pixel. */
  scale: Animatable
  rotation: Animatable
}
export type Layer = PlateLayer | RenderLayer | PictureLayer

/** One column of the desk: gains that multiply, stops that add. Absent values are neutral. */
export type DeskColumn = Partial<Record<DeskRow, Animatable>>
export const DESK_ROWS = [
  'diffuse_direct',
  'diffuse_indirect',
  'reflection',
  'refraction',
  'emission',
  'environment',
  'occlusion',
  'exposure',
  'saturation',
] as const
export type DeskRow = (typeof DESK_ROWS)[number]
export const DESK_NEUTRAL: Record<DeskRow, number> = {
  diffuse_direct: 1,
  diffuse_indirect: 1,
  reflection: 1,
  refraction: 1,
  emission: 1,
  environment: 1,
  occlusion: 1,
  exposure: 0,
  saturation: 1,
}

export interface MatchLine extends DrawnLine {
  id: string
}
/** A place of the world that is seen at a place of the picture. */
export interface MatchPoint {
  id: string
  name: string
  world: [number, number, number]
  pixel: [number, number]
}
/** Places along something that is straight in the world. */
export interface MatchCurve {
  id: string
  points: [number, number][]
}
export interface MatchPole {
  id: string
  x: number
  z: number
  height: number
}
export interface MatchSettings {
  lines: MatchLine[]
  /** The focal length is solved, or stays the camera's. */
  focal: 'solve' | 'keep'
  /** Upright checks on the ground, metres. */
  poles: MatchPole[]
  points?: MatchPoint[]
  /** Solved with the points: the first term of the lens. */
  pointsLens?: boolean
  /** The lines (of three directions) give the optical centre too. */
  centre?: boolean
  curves?: MatchCurve[]
}

/**
 * Radial distortion of the plate's lens: a place r from the middle (in half widths of the frame, undistorted) is seen
 * at r (1 + k1 r² + k2 r⁴). Brown 1971.
 */
export interface LensSettings {
  k1: Animatable
  k2: Animatable
  on: boolean
}

/** A camera track: its list of frames and points is a file; the camera's values were made from it. */
export interface TrackUse extends BlobReference {
  /** Frame of the shot at which the track's first frame stands. */
  start: number
  count: number
  points: number
  rate?: Rate
}

/** What is to be rendered, and what was. */
export interface PassSettings {
  /** Of the frame's size. */
  scale: number
  samples: number
  seed: number
  bounces: number
  /** Ranks of Cryptomatte, 1 to 8; 6 when it says nothing. */
  ranks?: number
  /**
   * Occlusion: metres it reaches, power by which far things darken less (0: all alike), degrees of its cone to each
   * side.
   */
  reach: number
  falloff?: number
  cone?: number
  /** Upper bound of one indirect contribution (scene-linear) against bright specks; absent or 0: none. */
  clamp?: number
  /** Samples after which a kind of pass gets no more. */
  limits?: SampleLimits
  /** Noise (standard deviation over brightness) at which a pixel gets no more samples. */
  noiseLevel?: number
  /** Minutes after which it ends with what there is. */
  minutes?: number
  /** Metres between which the mist rises. */
  mist?: { near: number; far: number }
  outline?: OutlineSettings
  /** Whether noise is taken out of the light, beside what is rendered; it is when this says nothing. */
  denoise?: boolean
  selected: string[]
  file: PassFileReference | null
}

/** Rendered passes. */
export interface PassFileReference extends BlobReference {
  width: number
  height: number
  passes: string[]
  objects: string[]
  /** Those of them that stand in for the plate: they catch and hold out, nothing of their own is seen. */
  standIns?: string[]
  materials: string[]
  /** Groups of light that have a beauty of their own. */
  lights?: string[]
  /** The light is there with its noise taken out too. */
  clean?: boolean
  /** What it, and each of its passes, was rendered from (core/shot/stamp.ts). */
  of: string
  stamps?: Record<string, string>
  /** Of a range of frames: files of each, null where one is not rendered. `blob` is the first's. */
  frames?: { first: number; blobs: (string | null)[] }
  /** Names of its objects that have changed since. */
  names?: Record<string, string>
  /** Pixels of the full frame that it reaches beyond the frame: left and right, top and bottom. */
  margin?: [number, number]
}

/** The objects of a render that are seen and can be worked on. */
export const seenObjects = ({ objects, standIns = [] }: PassFileReference): string[] =>
  standIns.length ? objects.filter(name => !standIns.includes(name)) : objects

export interface ShotDocument {
  version: typeof DOCUMENT_VERSION
  frame: { width: number; height: number }
  rate: Rate
  frames: { first: number; last: number }
  view: string
  plate: PictureReference | null
  scene: {
    file: BlobReference | null
    /** As in the file when not said. */
    filePlace?: FilePlace
    objects: Record<string, ObjectSettings>
    /** New names of the file's objects. */
    names?: Record<string, string>
    added?: AddedObject[]
    prints?: PrintSettings[]
    track?: TrackUse | null
    camera: CameraSettings
    fileLights: boolean
    lights: LightSettings[]
    volumes?: AirSettings[]
    environment: EnvironmentSettings | null
  }
  passes: PassSettings
  build: {
    layers: Layer[]
    desk: {
      everything: DeskColumn
      objects: Record<string, DeskColumn>
      /** Gains of groups of light. */
      lights?: Record<string, Animatable>
    }
  }
  finish: TreatmentSettings[]
  /** What was drawn on the plate to find its camera. */
  match?: MatchSettings
  lens?: LensSettings
}

export const DEFAULT_CAMERA: CameraSettings = {
  focalLength: 35,
  sensorWidth: 36,
  x: 0,
  y: 1.62,
  z: 0,
  heading: 0,
  pitch: 0,
  bank: 0,
}

export const identifier = (): string =>
  Array.from(globalThis.crypto.getRandomValues(new Uint8Array(6)), byte => byte.toString(36).padStart(2, '0'))
    .join('')
    .slice(0, 10)

export function newTreatment(kind: string, values: Record<string, number>, id = identifier()): TreatmentSettings {
  return { id, kind, on: true, strength: 1, matte: null, values }
}

/** A shot of one frame with nothing in it yet. */
export function newDocument(width = 1920, height = 1080): ShotDocument {
  return {
    version: DOCUMENT_VERSION,
    frame: { width, height },
    rate: { numerator: 24, denominator: 1 },
    frames: { first: 1, last: 1 },
    view: 'srgb',
    plate: null,
    scene: { file: null, objects: {}, camera: { ...DEFAULT_CAMERA }, fileLights: true, lights: [], environment: null },
    passes: {
      scale: 1,
      samples: 64,
      seed: 1,
      bounces: 6,
      reach: 1,
      clamp: 0,
      selected: [...DEFAULT_PASSES],
      file: null,
    },
    build: {
      layers: [
        { id: 'plate', kind: 'plate', name: 'Plate', on: true, opacity: 1, mode: 'over', treatments: [] },
        {
          id: 'render',
          kind: 'render',
          name: 'Render',
          on: true,
          opacity: 1,
          mode: 'over',
          treatments: [],
          shadow: 1,
          occlusion: 0,
        },
      ],
      desk: { everything: {}, objects: {} },
    },
    finish: [],
  }
}

/** Blobs that a document needs, so that they are kept. */
export function blobsOf(document: ShotDocument): string[] {
  const pictures = [
    document.plate,
    ...document.build.layers.map(layer => (layer.kind === 'picture' ? layer.picture : null)),
  ]
  const found = [
    document.scene.file?.blob,
    document.scene.track?.blob,
    ...(document.scene.prints ?? []).map(print => print.picture.blob),
    document.scene.environment?.blob,
    document.passes.file?.blob,
    ...(document.passes.file?.frames?.blobs ?? []),
    ...pictures.flatMap(picture => [picture?.blob, picture?.clip?.made?.blob, picture?.lut?.blob]),
  ]
  return [...new Set(found.filter((blob): blob is string => !!blob))]
}
