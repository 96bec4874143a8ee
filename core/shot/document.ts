// The shot document: everything that is decided about a shot. Versioned JSON; pixels are blobs named by their SHA-256.
// What it holds is declared in schema/, from which its types, its checks and the walks through it follow.
import type { EntryValue } from '../declare/field'
import { DEFAULT_PASSES } from '../render/passes'
import { rowsOf, type Unplaced } from './rows'
import type { CameraSettings } from './schema/camera'
import type { Layer } from './schema/layer'
import type { PassFileReference } from './schema/passes'
import { DOCUMENT_VERSION, type ShotDocument } from './schema/shot'
import type { TreatmentSettings } from './schema/treatment'
import { eachPlace } from './schema/walk'

export type { CameraSettings, LensSettings, TrackUse } from './schema/camera'
export type {
  ElementLayer,
  FigureLayer,
  GroupLayer,
  Layer,
  PassLayer,
  PictureLayer,
  PlateLayer,
  RenderLayer,
  SpecksLayer,
  StuckLayer,
  WaterLayer,
  WordsLayer,
  FontReference,
  WashLayer,
} from './schema/layer'
export {
  LIGHT_KINDS,
  type AirSettings,
  type EnvironmentSettings,
  type LightKind,
  type LightSettings,
} from './schema/light'
export type { MatchCurve, MatchLine, MatchPoint, MatchPole, MatchSettings } from './schema/match'
export type { PassFileReference, PassSettings } from './schema/passes'
export { DEPTH_KINDS, type DepthReading, type PassReading } from './schema/reading'
export type { BlobReference, ClipUse, PictureReference } from './schema/picture'
export { DOCUMENT_VERSION, type FilePlace, type ShotDocument } from './schema/shot'
export type { AddedObject, ObjectSettings, Pin, PrintSettings } from './schema/thing'
export type { KeptMatte, MatteTerm, NamesMatte, RefineSettings, Slip, ValuedMatte } from './schema/matte'
export type { TreatmentSettings } from './schema/treatment'

/** The objects of a render that are seen and can be worked on. */
export const seenObjects = ({ objects, standIns = [] }: PassFileReference): string[] =>
  standIns.length ? objects.filter(name => !standIns.includes(name)) : objects

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

/** A line of a recipe, yet without its place in one. */
export function newTreatment(
  kind: string,
  values: Record<string, EntryValue>,
  id = identifier(),
): Omit<TreatmentSettings, 'order'> {
  return { id, kind, on: true, strength: 1, matte: null, values }
}

/** What every layer has; those that are laid over others, opacity and mode too. */
export const newLayer = (id: string, name: string) => ({ id, name, on: true, treatments: {} })
export const LAID = { opacity: 1, mode: 'over' }
const NEW_LAYERS = (): Unplaced<Layer>[] => [
  { ...newLayer('plate', 'Plate'), kind: 'plate', ...LAID },
  { ...newLayer('shadow', 'Shadow'), kind: 'shadow', of: 'render', amount: 1 },
  { ...newLayer('render', 'Render'), kind: 'render', ...LAID, occlusion: 0, desk: { everything: {}, objects: {} } },
]

/** A shot of one frame with nothing in it yet. */
export function newDocument(width = 1920, height = 1080): ShotDocument {
  return {
    version: DOCUMENT_VERSION,
    frame: { width, height },
    rate: { numerator: 24, denominator: 1 },
    frames: { first: 1, last: 1 },
    view: 'srgb',
    plate: null,
    scene: { file: null, objects: {}, camera: { ...DEFAULT_CAMERA }, fileLights: true, lights: {}, environment: null },
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
    build: { layers: rowsOf<Layer>(NEW_LAYERS()) },
    finish: {},
    mattes: {},
  }
}

/** Blobs that a document needs, so that they are kept. */
export function blobsOf(document: ShotDocument): string[] {
  const found = new Set<string>()
  eachPlace(document, ({ field, value }) => {
    if (field.kind === 'blob') found.add(value as string)
  })
  return [...found]
}
